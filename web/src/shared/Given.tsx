import { programOf } from "../answers/program/asked";
import { CheckLines, ProgramGiven } from "../answers/program/Given";
import { WrittenGiven } from "../answers/WrittenText";
import type { Schemas } from "../api/client";
import classes from "./Given.module.css";
import { Maths } from "./Maths";
import { Line, Prose } from "./Prose";
import { VerdictMark, verdictWords } from "./VerdictMark";

type Props = { label?: string | undefined; given: Schemas["TryPartView"]; brief?: boolean };

/** What was given for a part, as it was read, with its verdict and reasons. */
export function Given({ label, given, brief = false }: Props) {
  const { verdict } = given;
  return (
    <div className={classes.given} data-outcome={verdict.outcome}>
      <p>
        {label && <span>{label} </span>}
        {!isWritten(verdict.response) && !isProgram(verdict.response) && <Entry given={given} />}{" "}
        <VerdictMark outcome={verdict.outcome} /> <strong>{verdictWords[verdict.outcome]}</strong>
      </p>
      {isWritten(verdict.response) && <WrittenGiven verdict={verdict} />}
      {isProgram(verdict.response) && <ProgramGiven verdict={verdict} />}
      {!brief && <CheckLines checks={verdict.checks} />}
      {verdict.notes.map((note) => (
        <p key={note} className={classes.note}>
          {note}
        </p>
      ))}
      {!brief && verdict.reply.length > 0 && <Prose blocks={verdict.reply} />}
    </div>
  );
}

/** Writing stands by itself, below its verdict. */
const isWritten = (response: Schemas["ResponseView"]) =>
  typeof response === "object" && "written" in response;

const isProgram = (response: Schemas["ResponseView"]) => programOf(response) !== null;

function Entry({ given }: { given: Schemas["TryPartView"] }) {
  const { verdict } = given;
  if (verdict.reads_as) return <Maths latex={verdict.reads_as} spoken={verdict.speech} />;
  if (typeof verdict.response === "string") return <code>{verdict.response}</code>;
  return (
    <span>
      {verdict.given.map((choice, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: what was chosen never changes
        <span key={i}>
          {i > 0 && " · "}“<Line content={choice} />”
        </span>
      ))}
    </span>
  );
}
