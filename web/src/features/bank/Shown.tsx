import { Button, SegmentedControl } from "@mantine/core";
import { useMemo, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import type { Schemas } from "../../api/client";
import segmented from "../../app/segmented.module.css";
import { Steps } from "../../shared/Steps";
import { LooseQuestion } from "../board/components/LooseQuestion";
import { RightAnswers } from "../loose/RightAnswers";
import paper from "../paper/Paper.module.css";
import { PaperQuestion } from "../paper/PaperQuestion";
import classes from "./Bank.module.css";
import type { Given } from "./queries";

type Asked = {
  shown: Schemas["LookedAt"];
  /** Before the names of its fields. */
  prefix: string;
  /** What the entries are read in: another one for another question or text. */
  place: string;
  read: (part: string, entry: string) => Promise<Schemas["ReadView"]>;
  pending: boolean;
  onCheck: (parts: Given[]) => void;
};
type Props = Asked & {
  /** Where a phone finds it. */
  phone: string;
  onOther: () => void;
};

type Way = "screen" | "phone" | "paper";

/** A question to be answered: the verdict is seen, nothing is recorded. */
export function AskedQuestion({ shown, prefix, place, read, pending, onCheck }: Asked) {
  const reader = useMemo(() => ({ key: place, read }), [place, read]);
  return (
    <>
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
    </>
  );
}

/** A question as a student would have it, on a screen, on a phone and on paper. */
export function Shown({ phone, onOther, ...asked }: Props) {
  const [way, setWay] = useState<Way>("screen");
  const { question, answers, title } = asked.shown;
  const { working } = question.help;
  return (
    <section className={classes.picture} aria-label="As a student has it">
      <div className={classes.ways}>
        <SegmentedControl
          size="xs"
          classNames={segmented}
          aria-label="Shown on"
          value={way}
          onChange={(to) => setWay(to as Way)}
          data={[
            { value: "screen", label: "Screen" },
            { value: "phone", label: "Phone" },
            { value: "paper", label: "Paper" },
          ]}
        />
      </div>
      {way === "screen" && <AskedQuestion {...asked} />}
      {way === "phone" && <iframe className={classes.phone} title={`${title} on a phone`} src={phone} />}
      {way === "paper" && (
        <div className={`${paper.sheet} ${classes.sheet}`} data-testid="on-paper">
          <PaperQuestion question={question} />
        </div>
      )}
      <div className={classes.buttons}>
        <Button size="xs" variant="default" onClick={onOther}>
          Other numbers
        </Button>
      </div>
      <details>
        <summary>Answers and working</summary>
        <RightAnswers answers={answers} parts={question.parts} />
        {working && <Steps steps={working} />}
      </details>
    </section>
  );
}
