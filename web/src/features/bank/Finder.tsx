import { Select, TextInput } from "@mantine/core";
import { useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import classes from "./Bank.module.css";
import { findQuestions, kindsOf, type Wanted } from "./find";

type Bank = Schemas["BankView"];

/** What is looked for in the bank, and what fits. */
export function useFinder(bank: Bank | undefined) {
  const [wanted, setWanted] = useState<Wanted>({ words: "", skill: null, kind: null });
  const found = useMemo(() => (bank ? findQuestions(bank, wanted) : []), [bank, wanted]);
  return { wanted, setWanted, found };
}

type Props = { bank: Bank; finder: ReturnType<typeof useFinder> };

/** Fields to find questions by words, skill and kind of answer. */
export function Finder({ bank, finder: { wanted, setWanted, found } }: Props) {
  return (
    <div className={classes.finder}>
      <TextInput
        aria-label="Words"
        placeholder="Words"
        value={wanted.words}
        onChange={(e) => setWanted({ ...wanted, words: e.currentTarget.value })}
      />
      <Select
        aria-label="Skill"
        placeholder="Any skill"
        clearable
        searchable
        data={bank.skills.map((s) => ({ value: s.id, label: s.title }))}
        value={wanted.skill}
        onChange={(skill) => setWanted({ ...wanted, skill })}
      />
      <Select
        aria-label="Kind of answer"
        placeholder="Any kind of answer"
        clearable
        data={kindsOf(bank)}
        value={wanted.kind}
        onChange={(kind) => setWanted({ ...wanted, kind })}
      />
      <span role="status">
        {found.length} of {bank.questions.length}
      </span>
    </div>
  );
}
