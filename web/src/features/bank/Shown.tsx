import { Button } from "@mantine/core";
import { useMemo } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import type { Schemas } from "../../api/client";
import { Steps } from "../../shared/Steps";
import { LooseQuestion } from "../board/components/LooseQuestion";
import { RightAnswers } from "../loose/RightAnswers";
import classes from "./Bank.module.css";
import type { Given } from "./queries";

type Props = {
  shown: Schemas["LookedAt"];
  /** Before the names of its fields. */
  prefix: string;
  /** What the entries are read in: another one for another question or text. */
  place: string;
  read: (part: string, entry: string) => Promise<Schemas["ReadView"]>;
  pending: boolean;
  onCheck: (parts: Given[]) => void;
  onOther: () => void;
};

/** A question as a student would have it: any answer can be typed, and the verdict seen. Nothing is recorded. */
export function Shown({ shown, prefix, place, read, pending, onCheck, onOther }: Props) {
  const reader = useMemo(() => ({ key: place, read }), [place, read]);
  const working = shown.question.help.working;
  return (
    <section className={classes.picture} aria-label="As a student has it">
      <h2>{shown.title}</h2>
      <ReadFrom.Provider value={reader}>
        <LooseQuestion
          assignment=""
          question={shown.question}
          prefix={prefix}
          pending={pending}
          forTeacher
          onCheck={onCheck}
        />
      </ReadFrom.Provider>
      <div className={classes.buttons}>
        <Button size="xs" variant="default" onClick={onOther}>
          Other numbers
        </Button>
      </div>
      <details>
        <summary>Answers and working</summary>
        <RightAnswers answers={shown.answers} parts={shown.question.parts} />
        {working && <Steps steps={working} />}
      </details>
    </section>
  );
}
