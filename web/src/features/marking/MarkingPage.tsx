import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./Marking.module.css";
import { markingQuery } from "./queries";

/** What waits for a person, question by question. */
export function MarkingPage() {
  const marking = useQuery(markingQuery());
  const all = marking.data?.assignments ?? [];
  const waiting = all.flatMap((a) => a.questions).reduce((sum, q) => sum + q.waiting, 0);
  return (
    <Frame title="Marking">
      {marking.error && <Trouble heading={marking.data ? undefined : "Marking"} error={marking.error} />}
      {marking.isPending && <Skeleton height={280} aria-label="Loading what waits" />}
      {marking.data && (
        <>
          <h1>Marking</h1>
          <p className={classes.dim} data-testid="waiting">
            {waiting === 0
              ? "Nothing waits for you."
              : waiting === 1
                ? "One answer waits for you."
                : `${waiting} answers wait for you.`}
          </p>
          {all.length === 0 && (
            <p>None of your classes has work that a person marks: writing, or recordings.</p>
          )}
          {all.map((assignment) => (
            <section key={assignment.id} className={classes.slab} aria-label={assignment.title}>
              <h2>{assignment.title}</h2>
              <p className={classes.dim}>{assignment.class_title}</p>
              <ul>
                {assignment.questions.map((q) => (
                  <li key={q.question}>
                    <Link
                      to="/marking/$id/$number"
                      params={{ id: assignment.id, number: String(q.question + 1) }}
                    >
                      Question {q.question + 1}: {q.title}
                    </Link>
                    <span data-waits={q.waiting > 0}>
                      {q.waiting} {q.waiting === 1 ? "waits" : "wait"}
                    </span>
                    <span className={classes.dim}>{q.marked} marked</span>
                  </li>
                ))}
              </ul>
              {assignment.kept > 0 && (
                <p>
                  {assignment.kept === 1 ? "1 answer is" : `${assignment.kept} answers are`} held back, not
                  released yet.
                </p>
              )}
              {assignment.students.length > 0 && (
                <details className={classes.byStudent}>
                  <summary>Student by student</summary>
                  <ul>
                    {assignment.students.map((s) => (
                      <li key={s.id}>
                        <Link
                          to="/marking/$id/student/$student"
                          params={{ id: assignment.id, student: s.id }}
                        >
                          {s.name}
                        </Link>
                        <span data-waits={s.waiting > 0}>
                          {s.waiting} {s.waiting === 1 ? "waits" : "wait"}
                        </span>
                        <span className={classes.dim}>{s.marked} marked</span>
                      </li>
                    ))}
                  </ul>
                </details>
              )}
            </section>
          ))}
        </>
      )}
    </Frame>
  );
}
