import { inEditors, programOf } from "../../../answers/program/asked";
import { CompareVersions, type Version } from "../../../answers/program/Tries";
import type { Schemas } from "../../../api/client";
import { Given } from "../../../shared/Given";
import { Prose } from "../../../shared/Prose";
import { clock, daysBetween, moment } from "../../../shared/when";
import classes from "./Margin.module.css";

type Props = { board: Schemas["BoardView"]; question: Schemas["QuestionView"] };

/** Every try on every set, the newest set first, with what it asked. */
export function TriesPanel({ board, question }: Props) {
  if (!board.verdicts)
    return <p>Answers are checked when you hand in. Your tries are shown here after that.</p>;
  const any = question.sets.some((s) => s.tries.length > 0);
  if (!any && question.sets.length === 1) {
    return <p>Each answer you check is listed here, with its verdict.</p>;
  }
  return (
    <div>
      {[...question.sets].reverse().map((set) => (
        <OneSet key={set.set} board={board} question={question} set={set} />
      ))}
    </div>
  );
}

/** A program at each try, and as it stands in the editor now. */
export function versionsOf(
  set: Schemas["SetView"],
  part: Schemas["PartView"] | undefined,
  when: (at: string) => string,
  now?: string,
): Version[] {
  const given = set.tries.flatMap((t, i) => {
    const program = programOf(t.parts.find((p) => !part || p.id === part.id)?.verdict.response);
    return program === null ? [] : [{ name: `Try ${i + 1}, ${when(t.at)}`, program }];
  });
  const last = given.at(-1);
  const changed = now !== undefined && last && now !== last.program;
  return changed ? [...given, { name: "In the editor now", program: now }] : given;
}

type SetProps = Props & { set: Schemas["SetView"] };

function OneSet({ board, question, set }: SetProps) {
  const several = question.parts.length > 1;
  const when = (at: string) => (daysBetween(at, board.now) === 0 ? clock(at) : moment(at));
  return (
    <section className={classes.set}>
      <h3 className={classes.head}>Set {set.set}</h3>
      <details>
        <summary>What it asked</summary>
        <Prose blocks={set.text} />
      </details>
      {set.hints > 0 && (
        <p className={classes.dim}>
          {set.hints} {set.hints === 1 ? "hint" : "hints"} taken
        </p>
      )}
      <ol className={classes.tries}>
        {set.tries.map((t, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: tries are only ever added at the end
          <li key={i}>
            <p className={classes.dim}>
              {when(t.at)}
              {t.at_hand_in ? " · at hand-in" : t.used_a_try ? "" : " · no try used"}
            </p>
            {t.parts.map((p) => (
              <Given key={p.id} label={several ? `(${p.id})` : undefined} given={p} brief />
            ))}
          </li>
        ))}
      </ol>
      {question.parts.map((part) => (
        <CompareVersions
          key={part.id}
          versions={versionsOf(
            set,
            part,
            when,
            set.set === question.set
              ? inEditors.get(`${board.id}/${question.question}/${part.id}`)
              : undefined,
          )}
        />
      ))}
      {set.tries.length === 0 && <p className={classes.dim}>Not checked yet.</p>}
      {set.solution_shown && <p className={classes.dim}>The working was shown.</p>}
    </section>
  );
}
