import { Button } from "@mantine/core";
import { type ReactNode, useState } from "react";
import { AnswerField } from "../../../answers";
import { sameResponse } from "../../../answers/kinds";
import { Asked, showsAsked } from "../../../answers/program/asked";
import type { Schemas } from "../../../api/client";
import { Prose } from "../../../shared/Prose";
import { Exhibits } from "../../exhibits/Exhibits";
import type { Given } from "../keeper";
import classes from "./PartSheet.module.css";
import { Verdict } from "./Verdict";

type Props = {
  assignment: string;
  question: Schemas["QuestionView"];
  /** Before the names of fields, where another question is on the page too. */
  prefix: string;
  pending: boolean;
  /** Nothing more can be entered. */
  closed?: boolean;
  /** A teacher looks at it. */
  forTeacher?: boolean;
  onCheck: (parts: { id: string; response: Given }[]) => void;
  /** What this browser still held back. */
  held?: { id: string; response: Given }[] | null;
  /** Told of everything that is entered. */
  onEnter?: (parts: { id: string; response: Given }[]) => void;
  /** What the button says. */
  action?: string;
  /** Stands beside the button. */
  beside?: ReactNode;
};

/** A question outside the record: to try after an example, or to practise. Nothing of it is kept. */
export function LooseQuestion({
  assignment,
  question,
  prefix,
  pending,
  closed = false,
  forTeacher = false,
  onCheck,
  held = null,
  onEnter,
  action = prefix === "" ? "Check" : "Check this one",
  beside,
}: Props) {
  const [entered, setEntered] = useState<Record<string, Given>>(() =>
    Object.fromEntries([
      ...question.parts.flatMap((p) => (p.draft ? [[p.id, p.draft.response] as const] : [])),
      ...(held ?? []).map((h) => [h.id, h.response] as const),
    ]),
  );
  const asked = showsAsked(question);
  const several = question.parts.length > 1;
  const listed = (values: Record<string, Given>) =>
    Object.entries(values).map(([id, response]) => ({ id, response }));
  const check = () => onCheck(listed(entered));
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: a shortcut for what the button below does
    <div
      onKeyDown={(e) => {
        if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) {
          e.preventDefault();
          e.stopPropagation();
          check();
        }
      }}
    >
      <Exhibits exhibits={question.exhibits} place={`loose/${prefix}${question.question}`} />
      {!asked && <Prose blocks={question.text} />}
      <Asked.Provider value={asked ? question.text : null}>
        {question.parts.map((part) => {
          const value = entered[part.id];
          const same = part.verdict && sameResponse(part.verdict.response, value);
          const set = (response: Given) => {
            const now = { ...entered, [part.id]: response };
            setEntered(now);
            onEnter?.(listed(now));
          };
          return (
            <div key={part.id} className={classes.part}>
              {several && <span className={classes.name}>({part.id})</span>}
              <div className={classes.body}>
                {part.prompt.length > 0 && <Prose blocks={part.prompt} />}
                {part.by_hand ? (
                  <p className={classes.out}>
                    {forTeacher
                      ? "A person marks this once it is handed in: it waits for you in Marking."
                      : "Only your teacher can mark this, so it is left out here."}
                  </p>
                ) : (
                  <AnswerField
                    assignment={assignment}
                    question={question.question}
                    part={part.id}
                    name={`${prefix}${part.id}`}
                    entry={part.entry}
                    value={value}
                    disabled={closed}
                    invalid={false}
                    members={same ? (part.verdict?.members ?? []) : []}
                    wrongBefore={part.wrong_before}
                    onChange={set}
                  />
                )}
                {part.verdict && <Verdict verdict={part.verdict} showEntry={!same} />}
              </div>
            </div>
          );
        })}
      </Asked.Provider>
      {!question.all_right && !closed && question.parts.some((p) => !p.by_hand) && (
        <Button
          size="sm"
          mt={10}
          variant={prefix === "" ? "filled" : "default"}
          loading={pending}
          onClick={check}
        >
          {action}
        </Button>
      )}
      {beside}
    </div>
  );
}
