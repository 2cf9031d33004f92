import { Checkbox, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { meQuery } from "../sign-in/queries";
import { Answer } from "./Answer";
import classes from "./Marking.module.css";
import { studentToMarkQuery } from "./queries";
import { isKept, Release } from "./Release";
import { useSteps } from "./useSteps";

/** All that one student handed in and a person marks. */
export function StudentMarkPage() {
  const { id, student } = useParams({ from: "/signed-in/marking/$id/student/$student" });
  const work = useQuery(studentToMarkQuery(id, student));
  const [hidden, setHidden] = useState(false);
  return (
    <Frame
      trail={[
        { label: "Marking", to: "/marking" },
        { label: work.data?.title ?? "Assignment" },
        { label: hidden ? "One student" : (work.data?.name ?? "Student") },
      ]}
    >
      {work.error && <Trouble heading={work.data ? undefined : "Marking"} error={work.error} />}
      {work.isPending && <Skeleton height={420} aria-label="Loading the answers" />}
      {work.data && (
        <Answers
          key={student}
          id={id}
          student={student}
          work={work.data}
          hidden={hidden}
          onHidden={setHidden}
        />
      )}
    </Frame>
  );
}

type Props = {
  id: string;
  student: string;
  work: Schemas["MarkStudentView"];
  hidden: boolean;
  onHidden: (hidden: boolean) => void;
};

function Answers({ id, student, work, hidden, onHidden }: Props) {
  const me = useQuery(meQuery());
  const navigate = useNavigate();
  const [keep, setKeep] = useState(() => isKept(id, work.kept));
  const at = work.students.findIndex((s) => s.id === student);
  const go = (to: number) => {
    const next = work.students[to];
    if (next) void navigate({ to: "/marking/$id/student/$student", params: { id, student: next.id } });
  };
  useSteps(at, work.students.length, go);
  const nameOf = (i: number) => (hidden ? `Student ${i + 1}` : (work.students[i]?.name ?? ""));
  const open = (q: Schemas["StudentAnswer"]) =>
    q.answer.waiting > 0 && (!q.answer.kept || q.answer.kept.handed_in_since);
  const first = Math.max(work.questions.findIndex(open), 0);
  // The last question of a student leads to the next one who waits.
  const next = (question: number) => {
    if (work.questions.some((q) => q.question !== question && open(q))) return;
    const after = work.students.findIndex((s, i) => i > at && s.waiting > 0);
    if (after >= 0) go(after);
  };
  return (
    <>
      <h1>{nameOf(at)}</h1>
      <p className={classes.dim}>
        {work.class_title} · {work.title}
      </p>
      <Release assignment={id} kept={work.kept} keep={keep} onKeep={setKeep} />
      <div className={classes.columns}>
        <nav className={classes.students} aria-label="Students">
          <Checkbox label="Hide names" checked={hidden} onChange={(e) => onHidden(e.currentTarget.checked)} />
          <ol>
            {work.students.map((s, i) => (
              <li key={s.id}>
                <Link
                  to="/marking/$id/student/$student"
                  params={{ id, student: s.id }}
                  aria-current={i === at ? "page" : undefined}
                >
                  {nameOf(i)}
                  <span>{s.waiting > 0 ? `${s.waiting} wait` : "marked"}</span>
                </Link>
              </li>
            ))}
          </ol>
          <p className={classes.dim}>Alt + ← → goes from one to the next.</p>
        </nav>
        <div className={classes.answers}>
          {work.questions.map((q, i) => (
            <Answer
              key={q.question}
              assignment={id}
              question={q.question}
              of={q.of}
              answer={q.answer}
              heading={`Question ${q.question + 1}: ${q.question_title}`}
              person={me.data?.user_name ?? ""}
              notes={q.notes}
              keep={keep}
              focused={i === first}
              onNext={() => next(q.question)}
            />
          ))}
        </div>
      </div>
    </>
  );
}
