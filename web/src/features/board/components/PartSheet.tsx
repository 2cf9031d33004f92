import { Button } from "@mantine/core";
import { AnswerField } from "../../../answers";
import { sameResponse } from "../../../answers/kinds";
import type { Schemas } from "../../../api/client";
import { Prose } from "../../../shared/Prose";
import type { Keeper, Place } from "../keeper";
import classes from "./PartSheet.module.css";
import { Verdict } from "./Verdict";

type Props = {
  board: Schemas["BoardView"];
  question: Schemas["QuestionView"];
  part: Schemas["PartView"];
  keeper: Keeper;
  place: Place;
  closed: boolean;
  /** The verdict is on what stands in the field now. */
  fresh: boolean;
};

/** One thing to answer, with its verdict beside it. */
export function PartSheet({ board, question, part, keeper, place, closed, fresh }: Props) {
  const field = keeper.field(place);
  const value = field?.response;
  // What the teacher marks can be written until it ends, whatever became of the other parts.
  const ended = part.by_hand ? !board.is_open : closed;
  const disabled = ended || part.right || part.out;
  const several = question.parts.length + question.waiting.length > 1;
  const verdict = part.verdict;
  const same = verdict && sameResponse(verdict.response, value);
  return (
    <section
      className={classes.part}
      aria-label={`Answer to question ${question.question + 1}${several ? `, part ${part.id}` : ""}`}
    >
      {several && <span className={classes.name}>({part.id})</span>}
      <div className={classes.body}>
        {part.prompt.length > 0 && <Prose blocks={part.prompt} />}
        <AnswerField
          assignment={board.id}
          question={question.question}
          part={part.id}
          entry={part.entry}
          value={value}
          disabled={disabled}
          invalid={Boolean(verdict && same && !part.right && fresh)}
          members={same ? verdict.members : []}
          wrongBefore={part.right ? [] : part.wrong_before}
          onChange={(v) => keeper.set(place, v)}
        />
        {field?.elsewhere && <Elsewhere keeper={keeper} place={place} theirs={field.elsewhere.response} />}
        {part.out && !part.right && (
          <p className={classes.out}>No tries are left for this part on this set.</p>
        )}
        {part.tries_left != null && !part.out && !part.right && (
          <p className={classes.out}>
            {part.tries_left === 1 ? "One try" : `${part.tries_left} tries`} at this part on this set.
          </p>
        )}
        {part.by_hand && !verdict && !ended && (
          <p className={`${classes.out} ${classes.onScreen}`}>
            Your teacher marks this. It goes in when you hand in.
          </p>
        )}
        {verdict && <Verdict verdict={verdict} showEntry={!same || part.right} live={board.is_open} />}
      </div>
    </section>
  );
}

type ElsewhereProps = { keeper: Keeper; place: Place; theirs: Schemas["ResponseView"] };

function Elsewhere({ keeper, place, theirs }: ElsewhereProps) {
  const shown = typeof theirs === "string" ? theirs || "nothing" : "another answer";
  return (
    <div role="alert" className={classes.elsewhere}>
      <p>
        Another window has changed this answer to <code>{shown}</code>. Which version do you want to keep?
      </p>
      <Button size="xs" variant="default" onClick={() => keeper.settle(place, true)}>
        This version
      </Button>
      <Button size="xs" variant="default" onClick={() => keeper.settle(place, false)}>
        The other version
      </Button>
    </div>
  );
}
