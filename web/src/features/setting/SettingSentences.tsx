import { Checkbox, Textarea } from "@mantine/core";
import type { Schemas } from "../../api/client";
import { DateAndTime, type Term } from "../classes/Calendar";
import type { Settings } from "./queries";
import { Count, Pick, Sentence } from "./Sentence";
import classes from "./Sentence.module.css";

type Props = {
  settings: Settings;
  zone: string;
  term: Term | undefined;
  faults: Schemas["FaultView"][];
  onChange: (to: Partial<Settings>) => void;
};

const yesNo = (yes: string, no: string) => ({ yes, no });
const said = (value: boolean): "yes" | "no" => (value ? "yes" : "no");

/** Every setting, as plain sentences whose values can be changed. */
export function SettingSentences(props: Props) {
  return (
    <>
      <Dates {...props} />
      <Working {...props} />
      <HandingIn {...props} />
      <Besides {...props} />
    </>
  );
}

function Dates({ settings: s, zone, term, faults, onChange }: Props) {
  return (
    <section className={classes.group} aria-label="Dates">
      <h2>Dates</h2>
      <Sentence faults={faults} fields={["opens", "due"]}>
        It opens{" "}
        <DateAndTime
          inline
          term={term}
          label="Opens"
          value={s.opens}
          onChange={(opens) => opens && onChange({ opens })}
        />
        and is due
        <DateAndTime
          inline
          term={term}
          label="Due"
          value={s.due}
          onChange={(due) =>
            due && onChange(s.closes === s.due || s.closes < due ? { due, closes: due } : { due })
          }
        />
        ({zone} time).
      </Sentence>
      <Sentence faults={faults} fields={["closes", "late"]}>
        It closes{" "}
        <DateAndTime
          inline
          term={term}
          label="Closes"
          value={s.closes}
          onChange={(closes) => closes && onChange({ closes })}
        />
        and late work
        <Pick
          label="Late work"
          value={s.late}
          choices={{
            flagged: "is accepted and flagged",
            percent_off: "loses a share of its score",
            not_accepted: "is not accepted",
          }}
          onChange={(late) => onChange(late === "not_accepted" ? { late, closes: s.due } : { late })}
        />
        {s.late === "percent_off" && (
          <>
            <Count
              label="Per cent off for lateness"
              value={s.late_percent}
              from={10}
              onChange={(n) => onChange({ late_percent: n ?? 10 })}
            />
            %.
          </>
        )}
      </Sentence>
      {s.goal == null && (
        <Sentence faults={faults} fields={["time_limit"]}>
          From the first opening there is
          <Count
            label="Minutes"
            value={s.time_limit}
            none="no time limit"
            from={45}
            max={10080}
            onChange={(time_limit) => onChange({ time_limit })}
          />
          {s.time_limit != null && "minutes."}
        </Sentence>
      )}
    </section>
  );
}

function Working({ settings: s, faults, onChange }: Props) {
  if (s.goal != null || s.kind === "reading") return null;
  const single = s.checking === "individual";
  return (
    <section className={classes.group} aria-label="Working">
      <h2>Working</h2>
      <Sentence faults={faults} fields={["checking"]}>
        Answers are checked
        <Pick
          label="Checking"
          value={s.checking}
          choices={{ individual: "one by one, while working", simultaneous: "all together, at hand-in" }}
          onChange={(checking) =>
            onChange(
              checking === "simultaneous" ? { checking, max_sets: 1, release: "at_hand_in" } : { checking },
            )
          }
        />
      </Sentence>
      {single && (
        <Sentence faults={faults} fields={["max_attempts", "question_attempts"]}>
          On each set of numbers there are
          <Count
            label="Tries"
            value={s.max_attempts}
            none="unlimited tries"
            from={3}
            onChange={(max_attempts) => onChange({ max_attempts })}
          />
          {s.max_attempts != null && "tries."}
        </Sentence>
      )}
      {single && (
        <Sentence faults={faults} fields={["max_sets"]}>
          Of each question there are
          <Count
            label="Sets of numbers"
            value={s.max_sets}
            none="as many sets of numbers as one likes"
            from={4}
            onChange={(max_sets) => onChange({ max_sets })}
          />
          {s.max_sets != null && "sets of numbers."}
        </Sentence>
      )}
      <Sentence faults={faults} fields={["navigation"]}>
        Questions are worked
        <Pick
          label="Order"
          value={s.order}
          choices={{
            any: "in any order",
            in_order: "in order, and students can go back",
            in_order_no_going_back: "in order, and there is no going back",
          }}
          onChange={(order) => onChange({ order })}
        />
        {s.order !== "any" && (
          <>
            , and one
            <Pick
              label="Leaving out"
              value={said(s.allow_skipping)}
              choices={yesNo("can be left out", "can’t be left out")}
              onChange={(to) => onChange({ allow_skipping: to === "yes" })}
            />
          </>
        )}
      </Sentence>
      <Sentence faults={faults} fields={["hint_cost"]}>
        Hints are
        <Pick
          label="Hints"
          value={said(s.hints)}
          choices={yesNo("on", "off")}
          onChange={(to) => onChange(to === "yes" ? { hints: true } : { hints: false, hint_cost: 0 })}
        />
        {s.hints && (
          <>
            and each costs
            <Count
              label="Cost of a hint"
              value={s.hint_cost}
              from={0}
              onChange={(n) => onChange({ hint_cost: n ?? 0 })}
            />
            % of what is earned after it;{" "}
          </>
        )}
        worked examples are
        <Pick
          label="Worked examples"
          value={said(s.worked_example)}
          choices={yesNo("on", "off")}
          onChange={(to) => onChange({ worked_example: to === "yes" })}
        />
      </Sentence>
      <Sentence faults={faults} fields={["show_solution"]}>
        The working can be seen
        <Pick
          label="The working"
          value={s.show_solution}
          choices={{
            on_request: "on request, which ends that set",
            when_tries_run_out: "when no tries are left on a set",
            after_full_credit: "once a question is right",
            after_due: "after the due date",
            never: "never",
          }}
          onChange={(show_solution) => onChange({ show_solution })}
        />
        and the likely reason for a slip
        <Pick
          label="Reasons for slips"
          value={said(s.show_slips)}
          choices={yesNo("is told", "is not told")}
          onChange={(to) => onChange({ show_slips: to === "yes" })}
        />
      </Sentence>
    </section>
  );
}

function HandingIn({ settings: s, faults, onChange }: Props) {
  return (
    <section className={classes.group} aria-label="Handing in">
      <h2>Handing in</h2>
      <Sentence faults={faults} fields={["hand_ins", "which_counts"]}>
        It can be handed in
        <Count
          label="Hand-ins"
          value={s.hand_ins}
          none="as often as one likes"
          from={1}
          onChange={(hand_ins) => onChange({ hand_ins })}
        />
        {s.hand_ins != null && (s.hand_ins === 1 ? "time" : "times")}
        {s.hand_ins !== 1 && (
          <>
            and the
            <Pick
              label="Which hand-in counts"
              value={s.which_counts}
              choices={{ best: "best", last: "last" }}
              onChange={(which_counts) => onChange({ which_counts })}
            />
            one counts.
          </>
        )}
      </Sentence>
      {s.goal == null && (
        <Sentence faults={faults} fields={["hand_in_needs", "release"]}>
          Before that
          <Pick
            label="Handing in needs"
            value={s.hand_in_needs}
            choices={{
              nothing: "nothing is needed",
              every_question_attempted: "every question has to be attempted",
            }}
            onChange={(hand_in_needs) => onChange({ hand_in_needs })}
          />
          and results show
          <Pick
            label="Results show"
            value={s.release}
            choices={{ at_once: "at once", at_hand_in: "at hand-in", after_due: "after the due date" }}
            onChange={(release) => onChange({ release })}
          />
        </Sentence>
      )}
      <Sentence faults={faults} fields={["weight", "pass_mark"]}>
        It
        <Pick
          label="Counts"
          value={said(s.counts)}
          choices={yesNo("counts towards the grade", "is for practice only")}
          onChange={(to) => onChange({ counts: to === "yes" })}
        />
        {s.counts && (
          <>
            with weight
            <Count label="Weight" value={s.weight} from={1} onChange={(n) => onChange({ weight: n ?? 1 })} />
          </>
        )}
        and
        <Count
          label="Pass mark"
          value={s.pass_mark}
          none="there is no pass mark"
          from={50}
          onChange={(pass_mark) => onChange({ pass_mark })}
        />
        {s.pass_mark != null && "% is the pass mark."}
      </Sentence>
    </section>
  );
}

function Besides({ settings: s, onChange }: Props) {
  const tools = [
    ["calculator", "Calculator"],
    ["formula_sheet", "Formula sheet"],
    ["typing_guide", "Typing guide"],
    ["reading", "Pages to read beside a question"],
  ] as const;
  return (
    <section className={classes.group} aria-label={s.goal == null ? "Beside the questions" : "A note"}>
      <h2>{s.goal == null ? "Beside the questions" : "A note"}</h2>
      {s.goal == null &&
        tools.map(([name, label]) => (
          <Checkbox
            key={name}
            mb={6}
            label={label}
            checked={s[name]}
            onChange={(e) => onChange({ [name]: e.currentTarget.checked })}
          />
        ))}
      <Textarea
        mt={10}
        label="Your note on the cover sheet"
        autosize
        minRows={2}
        maxLength={2000}
        value={s.note ?? ""}
        onChange={(e) => onChange({ note: e.currentTarget.value })}
      />
    </section>
  );
}
