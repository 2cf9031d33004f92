import { Button } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import { LooseSheet } from "../loose/LooseSheet";
import classes from "./Reading.module.css";
import type { Spoken } from "./useReadAloud";

type Step = Schemas["PageStepView"];

/** A step as it is read aloud. */
export function spokenPieces(step: Step | undefined, number: number): Spoken[] {
  if (!step) return [];
  const pieces = step.blocks.map((block, i) => {
    const key = `${number}/${i}`;
    if (block.kind === "text") return { key, text: block.speech };
    if (block.kind === "figure") return { key, text: `Figure: ${block.alt}` };
    return { key, text: "Here is a question to check yourself with." };
  });
  return [{ key: `${number}/title`, text: step.title }, ...pieces];
}

type Props = { skill: string; step: Step; number: number; aloud: string | null; beside: boolean };

export function PageBlocks({ skill, step, number, aloud, beside }: Props) {
  return step.blocks.map((block, i) => {
    const key = `${number}/${i}`;
    const reading = aloud === key;
    if (block.kind === "text") {
      return (
        <div
          key={key}
          className={classes.text}
          data-aloud={reading}
          data-mark-block={beside ? undefined : key}
        >
          <Prose blocks={[block.block]} />
        </div>
      );
    }
    if (block.kind === "figure") {
      return (
        <figure key={key} className={classes.figure} data-aloud={reading}>
          <img src={block.address} alt={block.alt} />
        </figure>
      );
    }
    return <PageCheck key={key} skill={skill} check={block.check} beside={beside} />;
  });
}

/** A question inside a page: nothing of it is scored. */
function PageCheck({ skill, check, beside }: { skill: string; check: number; beside: boolean }) {
  const [round, setRound] = useState(0);
  return (
    <section className={classes.check} aria-label={`Check yourself, ${check + 1}`}>
      <h3>
        Check yourself <span className={classes.dim}>not scored</span>
      </h3>
      <LooseSheet
        key={round}
        source={{ from: "page", skill, check, round }}
        prefix={`${beside ? "beside" : "check"}${check}-`}
        once={false}
        after={() => (
          <Button size="sm" variant="default" mt={8} onClick={() => setRound(round + 1)}>
            Another one
          </Button>
        )}
      />
    </section>
  );
}
