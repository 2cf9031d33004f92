import { Button } from "@mantine/core";
import { lazy, Suspense, useState } from "react";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import { LooseSheet } from "../loose/LooseSheet";
import classes from "./Reading.module.css";
import type { Spoken } from "./useReadAloud";

const RecordingInside = lazy(() => import("../recordings/RecordingInside"));

type Step = Schemas["PageStepView"];

/** A step as it is read aloud. */
export function spokenPieces(step: Step | undefined, number: number): Spoken[] {
  if (!step) return [];
  const pieces = step.blocks.map((block, i) => {
    const key = `${number}/${i}`;
    if (block.kind === "text") return { key, text: block.speech };
    if (block.kind === "figure") return { key, text: `Figure: ${block.alt}` };
    if (block.kind === "walk") return { key, text: `A worked example to walk: ${block.speech}` };
    if (block.kind === "recording") return { key, text: "Here is a recording to watch." };
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
    if (block.kind === "recording") {
      return (
        <section
          key={key}
          className={classes.check}
          aria-label={`Recording, step ${number + 1}`}
          data-aloud={reading}
        >
          <Suspense fallback={<p>One moment…</p>}>
            <RecordingInside name={block.name} heading />
          </Suspense>
        </section>
      );
    }
    if (block.kind === "walk") {
      return <PageWalk key={key} skill={skill} block={block} reading={reading} beside={beside} />;
    }
    return <PageCheck key={key} skill={skill} check={block.check} beside={beside} />;
  });
}

type WalkProps = {
  skill: string;
  block: Extract<Step["blocks"][number], { kind: "walk" }>;
  reading: boolean;
  beside: boolean;
};

/** A worked example whose steps one fills in, one at a time; each is shown on request. Nothing of it is scored. */
function PageWalk({ skill, block, reading, beside }: WalkProps) {
  const [done, setDone] = useState(0);
  return (
    <section
      className={classes.check}
      aria-label={`Worked example to walk, ${block.walk + 1}`}
      data-aloud={reading}
    >
      <h3>
        Step through the example <span className={classes.dim}>not scored</span>
      </h3>
      <Prose blocks={[block.about]} />
      <ol className={classes.walk}>
        {Array.from({ length: Math.min(done + 1, block.steps) }, (_, step) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: the steps of an example never change places
          <li key={step}>
            <LooseSheet
              source={{ from: "walk", skill, walk: block.walk, step }}
              prefix={`${beside ? "beside-" : ""}walk${block.walk}-${step}-`}
              once={false}
              show="Show this step"
              after={() => null}
              onEnd={() => setDone((d) => Math.max(d, step + 1))}
            />
          </li>
        ))}
      </ol>
      <p className={classes.dim} aria-live="polite">
        {done >= block.steps ? "Walked to the end." : `Step ${done + 1} of ${block.steps}`}
      </p>
    </section>
  );
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
