import { Button, Select, Skeleton, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { findQuestions, kindLabel, kindsOf } from "../bank/find";
import { Picture } from "../bank/Picture";
import { bankQuery } from "../bank/queries";
import classes from "./Sentence.module.css";

type Props = { chosen: string[]; onPick: (question: Schemas["BankQuestion"]) => void };

/** Questions of the bank, by skill, kind of answer and words, with a picture of each. */
export function QuestionPicker({ chosen, onPick }: Props) {
  const bank = useQuery(bankQuery());
  const [words, setWords] = useState("");
  const [skill, setSkill] = useState<string | null>(null);
  const [kind, setKind] = useState<string | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const found = useMemo(
    () => (bank.data ? findQuestions(bank.data, { words, skill, kind }) : []),
    [bank.data, words, skill, kind],
  );
  if (bank.error) return <Trouble error={bank.error} />;
  if (!bank.data) return <Skeleton height={200} aria-label="Loading the bank" />;
  return (
    <div className={classes.picker}>
      <div className={classes.sentence}>
        <TextInput
          aria-label="Words"
          placeholder="Words"
          value={words}
          onChange={(e) => setWords(e.currentTarget.value)}
        />
        <Select
          aria-label="Skill"
          placeholder="Any skill"
          clearable
          searchable
          data={bank.data.skills.map((s) => ({ value: s.id, label: s.title }))}
          value={skill}
          onChange={setSkill}
        />
        <Select
          aria-label="Kind of answer"
          placeholder="Any kind of answer"
          clearable
          data={kindsOf(bank.data)}
          value={kind}
          onChange={setKind}
        />
        <span role="status">{found.length} found</span>
      </div>
      <ul className={classes.found}>
        {found.map((q) => (
          <li key={q.id}>
            <div>
              <b>{q.title}</b> · {q.kinds.map(kindLabel).join(", ")} ·{" "}
              {q.points === 1 ? "1 point" : `${q.points} points`}
              {q.by_hand && " · marked by you"}
              {q.uses > 0 && ` · in ${q.uses === 1 ? "1 assignment" : `${q.uses} assignments`}`}
            </div>
            <Button size="compact-xs" variant="default" onClick={() => setOpen(open === q.id ? null : q.id)}>
              {open === q.id ? "Close" : "Look"}
            </Button>
            <Button
              size="compact-xs"
              disabled={chosen.includes(q.id)}
              aria-label={`Add ${q.title}`}
              onClick={() => onPick(q)}
            >
              {chosen.includes(q.id) ? "In it" : "Add"}
            </Button>
            {open === q.id && (
              <div style={{ flexBasis: "100%" }}>
                <Picture id={q.id} />
              </div>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
