import { Button, NumberInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Picture } from "../bank/Picture";
import { bankQuery } from "../bank/queries";
import { QuestionPicker } from "./QuestionPicker";
import type { Edit } from "./queries";
import { Sentence } from "./Sentence";
import classes from "./Sentence.module.css";

type Props = {
  questions: Edit["questions"];
  faults: Schemas["FaultView"][];
  /** Work has begun: they stay. */
  fixed: boolean;
  onChange: (questions: Edit["questions"]) => void;
};

/** The questions of an assignment, in order, with their points. */
export function QuestionList({ questions, faults, fixed, onChange }: Props) {
  const bank = useQuery(bankQuery());
  const [picking, setPicking] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const title = (id: string) => bank.data?.questions.find((q) => q.id === id)?.title ?? id;
  const move = (at: number, by: number) => {
    const to = [...questions];
    const [one] = to.splice(at, 1);
    if (one) to.splice(at + by, 0, one);
    onChange(to);
  };
  const points = questions.reduce((sum, q) => sum + q.points, 0);
  return (
    <section className={classes.group} aria-label="Questions">
      <h2>
        Questions{" "}
        {questions.length > 0 && `(${questions.length}, ${points} ${points === 1 ? "point" : "points"})`}
      </h2>
      <ol className={classes.questions}>
        {questions.map((q, at) => (
          <li key={q.id}>
            <span>
              {at + 1}. {title(q.id)}
            </span>
            {fixed ? (
              <b>{q.points}</b>
            ) : (
              <NumberInput
                size="xs"
                className={classes.number}
                aria-label={`Points of ${title(q.id)}`}
                min={1}
                max={100}
                value={q.points}
                onChange={(to) =>
                  to !== "" &&
                  onChange(questions.map((o) => (o.id === q.id ? { ...o, points: Number(to) } : o)))
                }
              />
            )}
            {q.points === 1 ? "point" : "points"}
            <Button size="compact-xs" variant="default" onClick={() => setOpen(open === q.id ? null : q.id)}>
              {open === q.id ? "Close" : "Preview"}
            </Button>
            {!fixed && (
              <>
                <Button
                  size="compact-xs"
                  variant="default"
                  disabled={at === 0}
                  aria-label={`Move ${title(q.id)} up`}
                  onClick={() => move(at, -1)}
                >
                  Up
                </Button>
                <Button
                  size="compact-xs"
                  variant="default"
                  disabled={at === questions.length - 1}
                  aria-label={`Move ${title(q.id)} down`}
                  onClick={() => move(at, 1)}
                >
                  Down
                </Button>
                <Button
                  size="compact-xs"
                  variant="default"
                  aria-label={`Remove ${title(q.id)}`}
                  onClick={() => onChange(questions.filter((o) => o.id !== q.id))}
                >
                  Remove
                </Button>
              </>
            )}
            {open === q.id && (
              <div style={{ flexBasis: "100%" }}>
                <Picture id={q.id} />
              </div>
            )}
          </li>
        ))}
      </ol>
      <Sentence faults={faults} fields={["questions", "points"]}>
        {!fixed && (
          <Button size="sm" variant="default" mt={8} onClick={() => setPicking(!picking)}>
            {picking ? "Close the bank" : "Choose from the bank"}
          </Button>
        )}
      </Sentence>
      {picking && (
        <QuestionPicker
          chosen={questions.map((q) => q.id)}
          onPick={(q) => onChange([...questions, { id: q.id, points: q.points, tries: null }])}
        />
      )}
    </section>
  );
}
