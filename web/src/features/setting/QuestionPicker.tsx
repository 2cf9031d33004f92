import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { Finder, useFinder } from "../bank/Finder";
import { kindLabel } from "../bank/find";
import { Picture } from "../bank/Picture";
import { bankQuery } from "../bank/queries";
import classes from "./Sentence.module.css";

type Props = { chosen: string[]; onPick: (question: Schemas["BankQuestion"]) => void };

/** Questions of the bank, by skill, kind of answer and words, with a picture of each. */
export function QuestionPicker({ chosen, onPick }: Props) {
  const bank = useQuery(bankQuery());
  const finder = useFinder(bank.data);
  const { found } = finder;
  const [open, setOpen] = useState<string | null>(null);
  if (bank.error) return <Trouble error={bank.error} />;
  if (!bank.data) return <Skeleton height={200} aria-label="Loading the bank" />;
  return (
    <div className={classes.picker}>
      <Finder bank={bank.data} finder={finder} />
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
              {open === q.id ? "Close" : "Preview"}
            </Button>
            <Button
              size="compact-xs"
              variant="default"
              disabled={chosen.includes(q.id)}
              aria-label={`Add ${q.title}`}
              onClick={() => onPick(q)}
            >
              {chosen.includes(q.id) ? "Added" : "Add"}
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
