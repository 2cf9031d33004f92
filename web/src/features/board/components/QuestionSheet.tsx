import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { isEmpty } from "../../../answers/kinds";
import { Asked, showsAsked } from "../../../answers/program/asked";
import { api, ask, type Schemas } from "../../../api/client";
import { Asking } from "../../../shared/Asking";
import { Prose } from "../../../shared/Prose";
import { Trouble } from "../../../shared/Trouble";
import { verdictWords } from "../../../shared/VerdictMark";
import { points } from "../../../shared/when";
import { Exhibits } from "../../exhibits/Exhibits";
import { AskAbout } from "../../threads/AskAbout";
import type { Given, Keeper } from "../keeper";
import { takeUpdate } from "../queries";
import { AfterSet } from "./AfterSet";
import { PartSheet } from "./PartSheet";
import classes from "./QuestionSheet.module.css";
import { Strokes } from "./Strokes";

type Board = Schemas["BoardView"];
type Question = Schemas["QuestionView"];
type Props = {
  board: Board;
  question: Question;
  keeper: Keeper;
  /** In linear mode: goes on to the next question. */
  onMoveOn?: (() => void) | undefined;
  /** Opens a section of the help beside the question. */
  onHelp?: (section: string) => void;
};

function useCheck(board: Board, question: Question, given: (part: string) => Given | undefined) {
  const queryClient = useQueryClient();
  const [spoken, setSpoken] = useState("");
  const check = useMutation({
    mutationFn: () => {
      const parts = question.parts
        .filter((p) => !p.right && !p.out && !p.by_hand)
        .flatMap((p) => {
          const response = given(p.id);
          return response === undefined ? [] : [{ id: p.id, response }];
        });
      return ask(
        api.POST("/api/assignments/{id}/check", {
          params: { path: { id: board.id } },
          body: { question: question.question, parts },
        }),
      );
    },
    onSuccess: (answer) => {
      takeUpdate(queryClient, board.id, answer);
      const several = answer.question.parts.length > 1;
      const verdicts = answer.question.parts.flatMap((p) =>
        p.verdict
          ? [
              `${several ? `Part ${p.id}: ` : ""}${verdictWords[p.verdict.outcome]}. ${p.verdict.notes.join(" ")}`,
            ]
          : [],
      );
      setSpoken(`${verdicts.join(" ")} ${answer.used_a_try ? "" : "No try was used."}`);
    },
  });
  return { check, spoken };
}

/** One question with its parts, Check, and what came of it. */
export function QuestionSheet({ board, question, keeper, onMoveOn, onHelp }: Props) {
  const sheet = useRef<HTMLElement>(null);
  const place = (part: string) => ({ question: question.question, set: question.set_number, part });
  const given = (part: string) => keeper.field(place(part))?.response;
  const { check, spoken } = useCheck(board, question, given);
  const [asking, setAsking] = useState(false);
  const open = question.parts.filter((p) => !p.right && !p.out && !p.by_hand);
  const empty = open.filter((p) => isEmpty(given(p.id)));
  const [lastTry, setLastTry] = useState<number | null>(null);
  const tries = question.sets.at(-1)?.tries.length ?? 0;
  useEffect(() => {
    if (!check.data) return;
    const first = check.data.question.parts.find((p) => !p.right);
    const field = `[data-part="${first?.id}"]`;
    if (first)
      sheet.current
        ?.querySelector<HTMLElement>(`input${field}, ${field} :is(input, .cm-content), ${field} button`)
        ?.focus();
    setLastTry(check.data.question.sets.at(-1)?.tries.length ?? 0);
  }, [check.data]);
  const run = () => {
    setAsking(false);
    if (!check.isPending) check.mutate();
  };
  const onCheck = () => {
    if (empty.length > 0 && empty.length < open.length) setAsking(true);
    else run();
  };
  const checked = question.parts.some((p) => !p.by_hand);
  const canCheck = board.checks && board.is_open && !question.set_over && checked;
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && canCheck) {
      e.preventDefault();
      onCheck();
    }
  };
  const heading = `question-head-${question.question}`;
  const beside = showsAsked(question);
  const manySets = question.sets_left !== 0 || question.set_number > 0;
  return (
    <article
      ref={sheet}
      className={classes.sheet}
      data-wide={beside || undefined}
      onKeyDown={onKey}
      aria-labelledby={heading}
    >
      <header className={classes.head}>
        <h1 id={heading}>Question {question.question + 1}</h1>
        <span>
          {question.points_so_far != null && `${points(question.points_so_far)} of `}
          {question.points} {question.points === 1 ? "point" : "points"}
        </span>
        {board.checks && manySets && checked && <span>Set {question.set}</span>}
      </header>
      <Exhibits exhibits={question.exhibits} place={`${board.id}/${question.question}`} />
      {!beside && <Prose blocks={question.text} />}
      <Asked.Provider value={beside ? question.text : null}>
        {question.parts.map((part) => (
          <PartSheet
            key={`${question.set_number}/${part.id}`}
            board={board}
            question={question}
            part={part}
            keeper={keeper}
            place={place(part.id)}
            closed={!board.is_open || question.set_over}
            fresh={lastTry === tries}
          />
        ))}
      </Asked.Provider>
      {question.waiting.map((part) => (
        <p key={part.id} className={classes.waiting} data-waiting={part.id}>
          <span>({part.id})</span> Part ({part.id}) opens once part ({part.after}) is right, or has no tries
          left.
        </p>
      ))}
      {check.error && <Trouble error={check.error} />}
      <Asking
        opened={asking}
        title="Some parts are empty"
        confirm="Check the rest"
        leave="Keep working"
        onConfirm={run}
        onLeave={() => setAsking(false)}
      >
        <p>
          {empty.length === 1 ? "Part" : "Parts"} {empty.map((p) => `(${p.id})`).join(", ")}{" "}
          {empty.length === 1 ? "is" : "are"} still empty. A check uses a try for what is entered.
        </p>
      </Asking>
      <div className={classes.action}>
        {canCheck && (
          <Button onClick={onCheck} loading={check.isPending} title="Ctrl + Enter">
            Check
          </Button>
        )}
        {checked && <Counts board={board} question={question} />}
        {check.data && !check.data.used_a_try && !check.isPending && !check.error && !question.set_over && (
          <span>No try was used.</span>
        )}
        {onMoveOn && (
          <Button variant={board.checks ? "default" : "filled"} onClick={onMoveOn}>
            Go on to question {question.question + 2}
          </Button>
        )}
      </div>
      {onHelp && canCheck && lastTry === tries && tries > 0 && !question.all_right && (
        <NextSteps question={question} onHelp={onHelp} />
      )}
      {checked && <AfterSet board={board} question={question} />}
      <AskAbout
        key={question.question}
        assignment={board.id}
        question={question.question}
        doubtful={board.verdicts && question.parts.some((p) => p.verdict && p.verdict.score < 1)}
        released={board.verdicts}
      />
      <p className="only-spoken" aria-live="assertive">
        {spoken}
      </p>
    </article>
  );
}

/** What may help now, beside a verdict that was not right. */
function NextSteps({ question, onHelp }: { question: Question; onHelp: (section: string) => void }) {
  const { help } = question;
  const steps = [
    ...(help.hints_left > 0 ? [{ section: "hints", words: "Take a hint" }] : []),
    ...(help.has_example ? [{ section: "example", words: "Worked example" }] : []),
    ...question.reading.map((page) => ({ section: `read-${page.skill}`, words: `Read: ${page.title}` })),
  ];
  if (steps.length === 0) return null;
  return (
    <p className={classes.next} data-testid="next-steps">
      Before the next try:{" "}
      {steps.map((step) => (
        <Button key={step.section} variant="subtle" size="compact-md" onClick={() => onHelp(step.section)}>
          {step.words}
        </Button>
      ))}
    </p>
  );
}

/** Both counts, always: tries on this set, and sets of fresh numbers. */
function Counts({ board, question }: { board: Board; question: Question }) {
  if (!board.checks) {
    const until = board.going_back ? "until then" : "until you go on";
    return board.is_open ? <span>Checked when you hand in. You can change it {until}.</span> : null;
  }
  const left = question.sets_left;
  const sets =
    left == null
      ? "unlimited fresh sets"
      : left === 1
        ? "1 more set of numbers"
        : `${left} more sets of numbers`;
  return (
    <>
      {question.all_right ? (
        <span>Every part of this question is right.</span>
      ) : (
        <Strokes left={question.tries_left} max={question.max_tries} set={question.set} />
      )}
      <span data-testid="sets-left">{sets}</span>
    </>
  );
}
