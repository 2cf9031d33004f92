import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../../api/client";
import { Prose } from "../../../shared/Prose";
import { Trouble } from "../../../shared/Trouble";
import { points } from "../../../shared/when";
import type { Given, Keeper } from "../keeper";
import { boardQuery } from "../queries";
import { PartSheet } from "./PartSheet";
import classes from "./QuestionSheet.module.css";
import { Strokes } from "./Strokes";
import { verdictWords } from "./Verdict";

type Question = Schemas["QuestionView"];
type Props = { board: Schemas["BoardView"]; question: Question; keeper: Keeper };

const isEmpty = (given: Given | undefined) =>
  given === undefined || (typeof given === "string" ? given.trim() === "" : given.length === 0);

function useCheck(
  board: Schemas["BoardView"],
  question: Question,
  given: (part: string) => Given | undefined,
) {
  const queryClient = useQueryClient();
  const [spoken, setSpoken] = useState("");
  const check = useMutation({
    mutationFn: () => {
      const parts = question.parts
        .filter((p) => !p.right)
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
      queryClient.setQueryData(
        boardQuery(board.id).queryKey,
        (old) =>
          old && {
            ...old,
            score: answer.score,
            questions: old.questions.map((q) => (q.question === question.question ? answer.question : q)),
          },
      );
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
export function QuestionSheet({ board, question, keeper }: Props) {
  const sheet = useRef<HTMLElement>(null);
  const place = (part: string) => ({ question: question.question, set: question.set_number, part });
  const given = (part: string) => keeper.field(place(part))?.response;
  const { check, spoken } = useCheck(board, question, given);
  const [asking, setAsking] = useState(false);
  const open = question.parts.filter((p) => !p.right);
  const empty = open.filter((p) => isEmpty(given(p.id)));
  const finished = open.length === 0;
  const outOfTries = question.tries_left === 0 && !finished;
  const [lastTry, setLastTry] = useState<number | null>(null);
  useEffect(() => {
    if (!check.data) return;
    const first = check.data.question.parts.find((p) => !p.right);
    if (first) sheet.current?.querySelector<HTMLElement>(`input[data-part="${first.id}"]`)?.focus();
    setLastTry(check.data.question.tries.length);
  }, [check.data]);
  const run = () => {
    setAsking(false);
    if (!check.isPending) check.mutate();
  };
  const onCheck = () => {
    if (empty.length > 0 && empty.length < open.length) setAsking(true);
    else run();
  };
  const onKey = (e: KeyboardEvent) => {
    if (e.key === "Enter" && (e.ctrlKey || e.metaKey) && !finished && !outOfTries && board.is_open) {
      e.preventDefault();
      onCheck();
    }
  };
  return (
    <article ref={sheet} className={classes.sheet} onKeyDown={onKey} aria-labelledby="question-head">
      <header className={classes.head}>
        <h1 id="question-head">Question {question.question + 1}</h1>
        <span>
          {points(question.points_so_far)} of {question.points} {question.points === 1 ? "point" : "points"}
        </span>
        <span>Set {question.set}</span>
      </header>
      <Prose blocks={question.text} />
      {question.parts.map((part) => (
        <PartSheet
          key={part.id}
          board={board}
          question={question}
          part={part}
          keeper={keeper}
          place={place(part.id)}
          closed={!board.is_open || outOfTries}
          fresh={lastTry === question.tries.length}
        />
      ))}
      {check.error && <Trouble error={check.error} />}
      {asking && (
        <div className={classes.asking} role="alertdialog" aria-label="Some parts are empty">
          <p>
            {empty.length === 1 ? "Part" : "Parts"} {empty.map((p) => `(${p.id})`).join(", ")}{" "}
            {empty.length === 1 ? "is" : "are"} still empty. A check uses a try for what is entered.
          </p>
          <Button size="sm" onClick={run} data-autofocus ref={(button) => button?.focus()}>
            Check the rest
          </Button>
          <Button size="sm" variant="default" onClick={() => setAsking(false)}>
            Go on working
          </Button>
        </div>
      )}
      <div className={classes.action}>
        {!finished && board.is_open && !outOfTries && (
          <Button onClick={onCheck} loading={check.isPending} title="Ctrl + Enter">
            Check
          </Button>
        )}
        {finished ? (
          <span>Every part of this question is right.</span>
        ) : (
          <Strokes left={question.tries_left} max={question.max_tries} set={question.set} />
        )}
        {check.data && !check.data.used_a_try && !check.isPending && !check.error && !finished && (
          <span>That cost no try.</span>
        )}
      </div>
      <p className="only-spoken" aria-live="assertive">
        {spoken}
      </p>
    </article>
  );
}
