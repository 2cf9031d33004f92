import { CheckLines } from "../../../answers/program/Given";
import type { Schemas } from "../../../api/client";
import { Maths } from "../../../shared/Maths";
import { Prose } from "../../../shared/Prose";
import { VerdictMark, verdictWords } from "../../../shared/VerdictMark";
import classes from "./Verdict.module.css";

type Props = {
  verdict: Schemas["VerdictView"];
  showEntry: boolean;
  /** It belongs to work that is still to be handed in. */
  live?: boolean;
};

/** A verdict with its reason, beside its part. */
export function Verdict({ verdict, showEntry, live = false }: Props) {
  return (
    <div className={classes.verdict} data-outcome={verdict.outcome} data-testid="verdict">
      <p className={classes.word}>
        <VerdictMark outcome={verdict.outcome} />
        {verdictWords[verdict.outcome]}
        {showEntry && verdict.reads_as && (
          <span className={classes.entry}>
            for <Maths latex={verdict.reads_as} spoken={verdict.speech} />
          </span>
        )}
      </p>
      {verdict.notes.map((note) => (
        <p key={note}>{note}</p>
      ))}
      <CheckLines checks={verdict.checks} live={live} />
      {verdict.reply.length > 0 && <Prose blocks={verdict.reply} />}
    </div>
  );
}
