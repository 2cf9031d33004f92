import type { Schemas } from "../../api/client";
import type { GivenProps } from "../kinds";
import { Told } from "../Told";
import { programOf } from "./asked";
import classes from "./Program.module.css";

/** A program that was given, folded, but where a person is to read it. */
export function ProgramGiven({ verdict }: GivenProps) {
  const program = programOf(verdict.response) ?? "";
  const lines = program.trimEnd().split("\n").length;
  return (
    <details className={classes.file} open={verdict.outcome === "with_the_teacher"}>
      <summary>
        Program, {lines} {lines === 1 ? "line" : "lines"}
      </summary>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what is wide is scrolled by keyboard too */}
      <pre tabIndex={0}>{program}</pre>
    </details>
  );
}

/** What each check found, with its share and, where it may be shown, what came beside what was expected. */
type CheckLinesProps = {
  checks: Schemas["CheckLineView"][];
  /** It can still be changed before it is handed in. */
  live?: boolean;
};

export function CheckLines({ checks, live = false }: CheckLinesProps) {
  if (checks.length === 0) return null;
  const all = checks.reduce((sum, c) => sum + c.share, 0);
  const met = checks.reduce((sum, c) => sum + (c.met ? c.share : 0), 0);
  return (
    <div data-testid="program-checks">
      <p className={classes.total}>
        {live
          ? `${Math.round((100 * met) / all)} % of the points would be recorded for this program. Nothing counts before you hand in.`
          : `The checks come to ${Math.round((100 * met) / all)} % of the points.`}
      </p>
      <ul className={classes.checks}>
        {checks.map((check) => (
          <li key={check.id} data-met={check.met}>
            <p>
              <Told right={check.met} words={check.met ? "met" : "not met"} /> {check.say}{" "}
              <span className={classes.dim}>{Math.round((100 * check.share) / all)} %</span>
            </p>
            {!check.met && <p className={classes.found}>{check.words}</p>}
            {!check.met && check.expected != null && <Difference check={check} />}
          </li>
        ))}
      </ul>
    </div>
  );
}

function Difference({ check }: { check: Schemas["CheckLineView"] }) {
  return (
    <details className={classes.file}>
      <summary>What came, beside what was expected</summary>
      {check.input && (
        <>
          <p className={classes.dim}>With</p>
          <pre>{check.input}</pre>
        </>
      )}
      <div className={classes.beside}>
        <Lines heading="Expected" text={check.expected ?? ""} other={check.actual ?? ""} />
        <Lines heading="Came" text={check.actual ?? ""} other={check.expected ?? ""} />
      </div>
    </details>
  );
}

/** Lines, those that differ marked by a bar and in words. */
function Lines({ heading, text, other }: { heading: string; text: string; other: string }) {
  const others = other.trimEnd().split("\n");
  const lines = text.trimEnd().split("\n");
  return (
    <div>
      <p className={classes.dim}>{heading}</p>
      <pre>
        {lines.map((line, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
          <span key={i} data-differs={line.trimEnd() !== (others[i] ?? "").trimEnd() || undefined}>
            {line || " "}
            {"\n"}
          </span>
        ))}
      </pre>
    </div>
  );
}
