import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { ClassFrame } from "../classes/ClassFrame";
import { classStartQuery } from "./queries";
import classes from "./Start.module.css";

type View = Schemas["ClassStartView"];
type Student = Schemas["StartedStudent"];

/** How a class stands at its start: skill by skill, and student by student. */
export function ClassStartPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/start" });
  const found = useQuery(classStartQuery(id));
  return (
    <ClassFrame id={id} here="Starting point">
      <p className={classes.words}>
        A short quiz that each student can do when they come into the class. It finds out what they know of
        its skills and sets where their mastery starts. It can also be set as an assignment: Work, practice,
        “The starting point of this class is done”.
      </p>
      {found.error && <Trouble error={found.error} />}
      {found.isPending && <Skeleton height={320} aria-label="Loading the starting points" />}
      {found.data && <Loaded id={id} view={found.data} />}
    </ClassFrame>
  );
}

function Loaded({ id, view }: { id: string; view: View }) {
  const queryClient = useQueryClient();
  const again = useMutation({
    mutationFn: (student: string | null) =>
      ask(api.POST("/api/classes/{id}/start/again", { params: { path: { id } }, body: { student } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: classStartQuery(id).queryKey }),
  });
  const done = view.students.filter((s) => s.standing.standing === "done");
  const settled = done.filter((s) => !s.again);
  return (
    <>
      <p>
        {done.length} of {view.students.length} have done it.
      </p>
      {settled.length > 1 && (
        <Button
          size="compact-sm"
          variant="default"
          loading={again.isPending && again.variables === null}
          onClick={() => again.mutate(null)}
        >
          Let all do it again
        </Button>
      )}
      {again.error && <Trouble error={again.error} />}
      {view.skills.length > 0 && <Picture view={view} done={done.length} />}
      <table className={classes.people}>
        <caption>Student by student</caption>
        <thead>
          <tr>
            <th scope="col">Student</th>
            <th scope="col">Starting point</th>
            <th scope="col">Knows</th>
            <th scope="col">Comes next</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {view.students.map((student) => (
            <Row
              key={student.id}
              student={student}
              view={view}
              pending={again.isPending && again.variables === student.id}
              onAgain={() => again.mutate(student.id)}
            />
          ))}
        </tbody>
      </table>
    </>
  );
}

/** Each skill as a layer: how many know it, are ready for it, are far from it. */
function Picture({ view, done }: { view: View; done: number }) {
  const words = (n: number, what: string) => (n > 0 ? [`${n} ${what}`] : []);
  return (
    <section aria-label="Skill by skill" className={classes.picture}>
      <h2>Skill by skill</h2>
      <ul className={classes.layers}>
        {view.skills.map((s) => (
          <li key={s.id} className={classes.line}>
            <span>{s.title}</span>
            <svg
              className={classes.bar}
              viewBox={`0 0 ${done} 8`}
              preserveAspectRatio="none"
              aria-hidden="true"
            >
              <rect width={s.known} height="8" className={classes.known} />
              <rect x={s.known} width={s.next} height="8" className={classes.next} />
              <rect width={done} height="8" className={classes.edge} />
            </svg>
            <span className={classes.dim}>
              {[
                ...words(s.known, s.known === 1 ? "knows it" : "know it"),
                ...words(s.next, "ready for it"),
                ...words(s.far_off, "still far off"),
              ].join(", ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

type RowProps = { student: Student; view: View; pending: boolean; onAgain: () => void };

function Row({ student, view, pending, onAgain }: RowProps) {
  const { standing } = student;
  const skills = standing.standing === "done" ? standing.skills : [];
  const known = skills.filter((s) => s.stratum === "known");
  const next = skills.filter((s) => s.stratum === "next");
  const title = (id: string) => view.skills.find((s) => s.id === id)?.title ?? id;
  return (
    <tr>
      <th scope="row">{student.name}</th>
      <td>
        {standing.standing === "done"
          ? moment(standing.at)
          : standing.standing === "under_way"
            ? "under way"
            : "not begun"}
      </td>
      <td>{skills.length > 0 ? `${known.length} of ${skills.length}` : ""}</td>
      <td>
        {next
          .slice(0, 4)
          .map((s) => title(s.skill))
          .join(", ")}
        {next.length > 4 && `, and ${next.length - 4} more`}
      </td>
      <td>
        {standing.standing === "done" &&
          (student.again ? (
            <span className={classes.dim}>may do it again</span>
          ) : (
            <Button
              size="compact-sm"
              variant="default"
              loading={pending}
              aria-label={`Let ${student.name} do it again`}
              onClick={onAgain}
            >
              Let them do it again
            </Button>
          ))}
      </td>
    </tr>
  );
}
