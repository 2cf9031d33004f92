import type { Schemas } from "../../api/client";
import { Maths } from "../../shared/Maths";
import { Line } from "../../shared/Prose";
import classes from "./LooseSheet.module.css";

/** The right answers of a question that has ended, part by part. */
export function RightAnswers({ answers }: { answers: Schemas["RightAnswer"][] }) {
  const several = answers.length > 1;
  return (
    <div className={classes.right} data-testid="right-answer">
      <h2>The right answer</h2>
      {answers.map((answer) => (
        <p key={answer.part}>
          {several && `(${answer.part}) `}
          {answer.latex ? (
            <Maths latex={answer.latex} spoken={answer.speech} />
          ) : (
            answer.choices.map((choice, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: choices never change places
              <span key={i}>
                <Line content={choice} />{" "}
              </span>
            ))
          )}
        </p>
      ))}
    </div>
  );
}
