import { AnswerGiven } from "../../answers";
import type { Schemas } from "../../api/client";
import { Maths } from "../../shared/Maths";
import { Line } from "../../shared/Prose";
import { VerdictMark } from "../../shared/VerdictMark";
import classes from "./LooseSheet.module.css";

type Part = Schemas["PartView"];
type Answer = Schemas["RightAnswer"];

/** One's own answers beside the right ones, part by part. */
export function RightAnswers({ answers, parts }: { answers: Answer[]; parts: Part[] }) {
  const several = answers.length > 1;
  const own = parts.some((p) => p.verdict);
  return (
    <table className={classes.right} data-testid="right-answer">
      <thead>
        <tr>
          {several && <th>Part</th>}
          {own && <th>Your answer</th>}
          <th>The right answer</th>
        </tr>
      </thead>
      <tbody>
        {answers.map((answer) => {
          const part = parts.find((p) => p.id === answer.part);
          return (
            <tr key={answer.part}>
              {several && <td>({answer.part})</td>}
              {own && (
                <td>
                  {part?.verdict && <VerdictMark outcome={part.verdict.outcome} />} <Own part={part} />
                </td>
              )}
              <td>
                {answer.latex ? (
                  <Maths latex={answer.latex} spoken={answer.speech} />
                ) : (
                  answer.choices.map((choice, i) => (
                    // biome-ignore lint/suspicious/noArrayIndexKey: choices never change places
                    <div key={i}>
                      <Line content={choice} />
                    </div>
                  ))
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What was given for a part. */
function Own({ part }: { part: Part | undefined }) {
  const verdict = part?.verdict;
  if (!part || !verdict) return <>nothing</>;
  return <AnswerGiven entry={part.entry} verdict={verdict} />;
}
