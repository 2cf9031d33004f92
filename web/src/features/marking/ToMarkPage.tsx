import { Checkbox, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { points } from "../../shared/when";
import { meQuery } from "../sign-in/queries";
import { Answer } from "./Answer";
import classes from "./Marking.module.css";
import { toMarkQuery } from "./queries";
import { isKept, Release } from "./Release";
import { useSteps } from "./useSteps";

type ToMark = Schemas["MarkQuestionView"];

/** The answers of a class to one question, one after the other. */
export function ToMarkPage() {
  const { id, number } = useParams({ from: "/signed-in/marking/$id/$number" });
  const question = Number(number) - 1;
  const toMark = useQuery(toMarkQuery(id, question));
  return (
    <Frame
      trail={[
        { label: "Marking", to: "/marking" },
        { label: toMark.data?.title ?? "Assignment" },
        { label: `Question ${number}` },
      ]}
    >
      {toMark.error && <Trouble heading={toMark.data ? undefined : "Marking"} error={toMark.error} />}
      {toMark.isPending && <Skeleton height={420} aria-label="Loading the answers" />}
      {toMark.data && <Answers key={`${id}/${question}`} assignment={id} toMark={toMark.data} />}
    </Frame>
  );
}

type ToMarkAnswer = ToMark["answers"][number];

/** It waits, and nothing is kept for it that still fits. */
const isOpen = (a: ToMarkAnswer) => a.waiting > 0 && (!a.kept || a.kept.handed_in_since);

function standing(a: ToMarkAnswer, of: number): string {
  if (a.kept) return a.kept.handed_in_since ? "look again" : `${points(a.kept.points)} of ${of}, kept`;
  return a.given ? `${points(a.given.points)} of ${of}` : "waits";
}

function Answers({ assignment, toMark }: { assignment: string; toMark: ToMark }) {
  const { answers } = toMark;
  const me = useQuery(meQuery());
  const firstWaiting = answers.findIndex((a) => isOpen(a));
  const [at, setAt] = useState(Math.max(firstWaiting, 0));
  const [hidden, setHidden] = useState(false);
  const [keep, setKeep] = useState(() => isKept(assignment, toMark.kept));
  const now = answers[at];
  const nameOf = (i: number) => (hidden ? `Student ${i + 1}` : (answers[i]?.name ?? ""));
  useSteps(at, answers.length, setAt);
  const next = () => {
    const after = answers.findIndex((a, i) => i > at && isOpen(a));
    const before = answers.findIndex((a, i) => i !== at && isOpen(a));
    const to = after >= 0 ? after : before;
    if (to >= 0) setAt(to);
  };
  const notes = [
    ...new Set(answers.flatMap((a) => (a.kept?.note ? [a.kept.note] : a.given?.note ? [a.given.note] : []))),
  ];
  return (
    <>
      <h1>{toMark.question_title}</h1>
      <p className={classes.dim}>
        {toMark.class_title} · {toMark.title} · {points(toMark.of)} {toMark.of === 1 ? "point" : "points"}
      </p>
      <Release assignment={assignment} kept={toMark.kept} keep={keep} onKeep={setKeep} />
      {!now && <p>Nobody has handed this in yet.</p>}
      {now && (
        <div className={classes.columns}>
          <nav className={classes.students} aria-label="Answers">
            <Checkbox
              label="Hide names"
              checked={hidden}
              onChange={(e) => setHidden(e.currentTarget.checked)}
            />
            <ol>
              {answers.map((a, i) => (
                <li key={a.student}>
                  <button type="button" aria-current={i === at || undefined} onClick={() => setAt(i)}>
                    {nameOf(i)}
                    <span>{standing(a, toMark.of)}</span>
                  </button>
                </li>
              ))}
            </ol>
            <p className={classes.dim}>Alt + ← → goes from one to the next.</p>
          </nav>
          <Answer
            key={now.student}
            assignment={assignment}
            question={toMark.question}
            of={toMark.of}
            answer={now}
            heading={nameOf(at)}
            keep={keep}
            focused
            person={me.data?.user_name ?? ""}
            notes={notes}
            onNext={next}
          />
        </div>
      )}
    </>
  );
}
