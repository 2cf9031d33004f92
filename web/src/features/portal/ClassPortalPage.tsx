import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Asking } from "../../shared/Asking";
import { Trouble } from "../../shared/Trouble";
import { moment, percent } from "../../shared/when";
import { ClassFrame } from "../classes/ClassFrame";
import classes from "../classes/Desk.module.css";
import { classPortalQuery } from "./queries";

type View = Schemas["ClassPortalView"];
type Unsettled = Schemas["UnsettledView"];

/** A class and its portal: its courses, the class list, and scores that are not there as they are here. */
export function ClassPortalPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/portal" });
  const found = useQuery(classPortalQuery(id));
  return (
    <ClassFrame id={id} here="Portal">
      {found.error && <Trouble error={found.error} />}
      {found.isPending && <Skeleton height={280} aria-label="Loading the portal" />}
      {found.data &&
        (found.data.courses.length === 0 ? (
          <p>
            This class is not linked to a course in a portal. Open Green Slate once from the course in your
            school’s portal, and say which class it is; your administrator registers the portal first.
          </p>
        ) : (
          <Portal id={id} view={found.data} />
        ))}
    </ClassFrame>
  );
}

function Portal({ id, view }: { id: string; view: View }) {
  const path = { params: { path: { id } } };
  const list = useMutation({
    mutationFn: () => ask(api.POST("/api/classes/{id}/portal/members", path)),
    onSettled: () => queryClient.invalidateQueries({ queryKey: ["classes", id] }),
  });
  const compare = useMutation({
    mutationFn: () => ask(api.POST("/api/classes/{id}/portal/compare", path)),
  });
  const queryClient = useQueryClient();
  const key = classPortalQuery(id).queryKey;
  const again = useMutation({
    mutationFn: (body: Schemas["SendAgain"]) =>
      ask(api.POST("/api/classes/{id}/portal/again", { ...path, body })),
    onSuccess: (now) => {
      compare.reset();
      queryClient.setQueryData(key, now);
    },
  });
  const end = useMutation({
    mutationFn: (course: string) =>
      ask(api.DELETE("/api/classes/{id}/portal/courses/{course}", { params: { path: { id, course } } })),
    onSuccess: (now) => queryClient.setQueryData(key, now),
  });
  const trouble = list.error ?? compare.error ?? again.error ?? end.error;
  return (
    <>
      {trouble && <Trouble error={trouble} />}
      <section className={classes.section} aria-label="Courses">
        <h2>Courses</h2>
        <ul className={classes.list}>
          {view.courses.map((c) => (
            <li key={c.id}>
              <span>
                <strong>{c.title}</strong> in {c.portal}
                {c.asked_at &&
                  ` · list of ${moment(c.asked_at)}${c.asked_answer ? `: ${c.asked_answer}` : ""}`}
              </span>{" "}
              <End course={c} pending={end.isPending} onEnd={() => end.mutate(c.id)} />
            </li>
          ))}
        </ul>
        {view.courses.some((c) => c.has_list) && (
          <Button variant="default" loading={list.isPending} onClick={() => list.mutate()}>
            Ask for the class list now
          </Button>
        )}
        {list.data && <ListTaken taken={list.data} />}
      </section>
      <section className={classes.section} aria-label="Scores">
        <h2>Scores</h2>
        <p>
          {view.lines.length === 0
            ? "No assignment has a column in the portal’s grade book yet. Add them in the portal."
            : `With a column in the grade book: ${view.lines.map((l) => l.title).join(", ")}.`}
        </p>
        {view.unsettled.length === 0 ? (
          <p>Every recorded score has been sent.</p>
        ) : (
          <Waiting scores={view.unsettled} pending={again.isPending} onAgain={again.mutate} />
        )}
        <div className={classes.actions}>
          <Button variant="default" loading={compare.isPending} onClick={() => compare.mutate()}>
            Compare with the grade book
          </Button>
          <Button variant="default" loading={again.isPending} onClick={() => again.mutate({})}>
            Send all again
          </Button>
        </div>
        <div role="status">
          {compare.data && (
            <Differs differs={compare.data.differs} pending={again.isPending} onAgain={again.mutate} />
          )}
        </div>
      </section>
    </>
  );
}

function End({
  course,
  pending,
  onEnd,
}: {
  course: Schemas["PortalCourseView"];
  pending: boolean;
  onEnd: () => void;
}) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button size="xs" variant="default" aria-label={`End ${course.title}`} onClick={() => setAsking(true)}>
        Unlink this course
      </Button>
      <Asking
        opened={asking}
        title={`Is ${course.title} no longer this class?`}
        confirm="End it"
        leave="Cancel"
        pending={pending}
        onConfirm={() => {
          setAsking(false);
          onEnd();
        }}
        onLeave={() => setAsking(false)}
      >
        <p>People stay as they are. Scores are no longer sent to {course.portal}.</p>
      </Asking>
    </>
  );
}

function ListTaken({ taken }: { taken: Schemas["ListTakenView"] }) {
  const lines = [
    taken.came.length > 0 && `New in the class: ${taken.came.join(", ")}.`,
    taken.left.length > 0 && `Left the course, and is marked as gone: ${taken.left.join(", ")}.`,
    taken.to_be_joined.length > 0 &&
      `Has an account here already: ${taken.to_be_joined.join(", ")}. It is linked once they come from the portal and sign in.`,
  ].filter((line) => line !== false);
  return (
    <div role="status">
      {lines.length === 0 ? <p>The list is as it was.</p> : lines.map((line) => <p key={line}>{line}</p>)}
    </div>
  );
}

const state = (s: Unsettled) => {
  switch (s.state) {
    case "held":
      return "until the results are out";
    case "given_up":
      return "given up after a week";
    case "unknown":
      return "the portal does not know this student yet";
    default:
      return "waiting";
  }
};

type Sending = { pending: boolean; onAgain: (what: { line: string; student: string }) => void };

function Waiting({ scores, pending, onAgain }: Sending & { scores: Unsettled[] }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard
    <section className={classes.scroll} aria-label="Not in the portal as it is here" tabIndex={0}>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Student</th>
            <th scope="col">Assignment</th>
            <th scope="col">Since</th>
            <th scope="col">State</th>
            <th scope="col">The portal said</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {scores.map((s) => (
            <tr key={s.line + s.student}>
              <td>{s.name}</td>
              <td>{s.title}</td>
              <td>{moment(s.since)}</td>
              <td>{state(s)}</td>
              <td>{s.answer}</td>
              <td>
                {s.state !== "unknown" && (
                  <Button
                    size="xs"
                    variant="default"
                    disabled={pending}
                    aria-label={`Send again: ${s.name}, ${s.title}`}
                    onClick={() => onAgain({ line: s.line, student: s.student })}
                  >
                    Send again
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const worth = (score: number | null | undefined) => (score == null ? "none" : percent(score));

function Differs({ differs, pending, onAgain }: Sending & { differs: Schemas["DiffersView"][] }) {
  if (differs.length === 0) return <p>The grade book has what is recorded here.</p>;
  return (
    <ul className={classes.list}>
      {differs.map((d) => (
        <li key={d.line + d.student}>
          {d.name}, {d.title}: here {worth(d.here)}, in the portal {worth(d.there)}{" "}
          <Button
            size="xs"
            variant="default"
            disabled={pending}
            aria-label={`Send again: ${d.name}, ${d.title}`}
            onClick={() => onAgain({ line: d.line, student: d.student })}
          >
            Send again
          </Button>
        </li>
      ))}
    </ul>
  );
}
