import { OnPaper } from "../../answers/paper/OnPaper";
import type { Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import classes from "./Paper.module.css";

/** As much of a question as its paper shows. */
export type OnSheet = Pick<Schemas["QuestionView"], "question" | "points" | "text" | "exhibits"> & {
  parts: Pick<Schemas["PartView"], "id" | "prompt" | "entry">[];
};

/** How much room is left below a question. */
export type Room = "little" | "some" | "much";

/** A question as it is printed: its text and figures, room to work, and a line or a frame for each answer. */
export function PaperQuestion({ question, room = "some" }: { question: OnSheet; room?: Room }) {
  const several = question.parts.length > 1;
  return (
    <section className={classes.question} aria-label={`Question ${question.question + 1}`}>
      <h2>
        {question.question + 1}
        <span>{question.points === 1 ? "1 point" : `${question.points} points`}</span>
      </h2>
      {question.exhibits.map((e) => (
        <section key={e.id} className={classes.exhibit}>
          <h3>{e.title}</h3>
          <Prose blocks={e.text} />
        </section>
      ))}
      <Prose blocks={question.text} />
      {question.parts.map((part) => (
        <div key={part.id} className={classes.part}>
          {several && <span>({part.id})</span>}
          <div>
            {part.prompt.length > 0 && <Prose blocks={part.prompt} />}
            {needsRoom(part.entry) && <div className={classes.room} data-room={room} aria-hidden="true" />}
            <OnPaper entry={part.entry} />
          </div>
        </div>
      ))}
    </section>
  );
}

/** What is worked out on the way to the answer; ticks and marks need none. */
const needsRoom = (entry: Schemas["EntryView"]) =>
  ["typed", "fraction", "matrix", "inline", "slider", "choice"].includes(entry.type);
