import type { ReactNode } from "react";
import { OnPaper } from "../../answers/paper/OnPaper";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import { RecordingWords } from "../recordings/RecordingWords";
import classes from "./Paper.module.css";

/** As much of a question as its paper shows. */
export type OnSheet = Pick<
  Schemas["PaperQuestionView"],
  "question" | "points" | "text" | "exhibits" | "parts"
>;

/** How much room is left to work in. */
export type Room = "little" | "some" | "much";

/** What is worked out on the way to the answer; ticks and marks need no room. */
const needsRoom = (entry: Schemas["EntryView"]) =>
  ["typed", "fraction", "matrix", "inline", "slider", "choice"].includes(entry.type);

/** A question in pieces that are not parted by the end of a page: its text with the first part, then part by part. */
export function questionBlocks(question: OnSheet, room: Room): ReactNode[] {
  const several = question.parts.length > 1;
  const part = (p: OnSheet["parts"][number]) => (
    <div className={classes.part}>
      {several && <span>({p.id})</span>}
      <div>
        {p.prompt.length > 0 && <Prose blocks={p.prompt} />}
        {needsRoom(p.entry) && <div className={classes.room} data-room={room} aria-hidden="true" />}
        <OnPaper entry={p.entry} />
      </div>
    </div>
  );
  const [first, ...others] = question.parts;
  return [
    <>
      <h2>
        {question.question + 1}
        <span>{question.points === 1 ? "1 point" : `${question.points} points`}</span>
      </h2>
      {question.exhibits.map((e) => (
        <section key={e.id} className={classes.exhibit}>
          <h3>{e.title}</h3>
          {e.recording && <RecordingWords name={e.recording} />}
          <Prose blocks={e.text} />
        </section>
      ))}
      <Prose blocks={question.text} />
      {first && part(first)}
    </>,
    ...others.map((p) => part(p)),
  ];
}

/** A question as it is printed: its text and figures, room to work, and a line or a frame for each answer. */
export function PaperQuestion({ question, room = "some" }: { question: OnSheet; room?: Room }) {
  return (
    <section className={classes.question} aria-label={`Question ${question.question + 1}`}>
      {questionBlocks(question, room).map((block, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the parts of a question never change places
        <div key={at} className={classes.block}>
          {block}
        </div>
      ))}
    </section>
  );
}
