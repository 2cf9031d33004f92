import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { AddPeople } from "./AddPeople";
import { ClassFrame } from "./ClassFrame";
import classes from "./Desk.module.css";
import { LinkList } from "./LinkList";
import { MemberRow } from "./MemberRow";
import { type ClassView, classQuery } from "./queries";

/** Who is in a class. */
export function PeoplePage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/people" });
  const found = useQuery(classQuery(id));
  const [added, setAdded] = useState<Schemas["AddedView"] | null>(null);
  return (
    <ClassFrame id={id} here="People">
      {found.isPending && <Skeleton height={320} aria-label="Loading the class" />}
      {found.data && (
        <div className={classes.columns}>
          <div>
            {added && <LinkList added={added} />}
            <People view={found.data} onLink={setAdded} />
            <p>
              <a href={`/api/classes/${id}/people.csv`} download>
                Download the list (CSV)
              </a>
            </p>
          </div>
          <div>
            <AddPeople id={id} onAdded={setAdded} />
            <JoinCode view={found.data} />
          </div>
        </div>
      )}
    </ClassFrame>
  );
}

type PeopleProps = { view: ClassView; onLink: (added: Schemas["AddedView"]) => void };

function People({ view, onLink }: PeopleProps) {
  const teachers = view.members.filter((m) => m.is_teacher);
  const students = view.members.filter((m) => !m.is_teacher && m.left_at == null);
  const left = view.members.filter((m) => !m.is_teacher && m.left_at != null);
  const table = (label: string, list: typeof students) => (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard
    <section className={classes.scroll} aria-label={label} tabIndex={0}>
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">User name</th>
            <th scope="col">Group</th>
            <th scope="col">Last seen</th>
            <th scope="col">
              <span className="only-spoken">What can be done</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {list.map((m) => (
            <MemberRow key={m.id} id={view.id} member={m} groups={view.groups} onLink={onLink} />
          ))}
        </tbody>
      </table>
    </section>
  );
  return (
    <>
      <div className={classes.section}>
        <h2>{students.length === 1 ? "1 student" : `${students.length} students`}</h2>
        {students.length === 0 ? (
          <p>Nobody is in this class yet. Add students by a list, or make a code they can join by.</p>
        ) : (
          table("Students", students)
        )}
      </div>
      {left.length > 0 && (
        <div className={classes.section}>
          <h2>Removed from the class</h2>
          <p className={classes.dim}>What they did is kept, and is there again when they are brought back.</p>
          {table("Removed from the class", left)}
        </div>
      )}
      <div className={classes.section}>
        <h2>{teachers.length === 1 ? "Teacher" : "Teachers"}</h2>
        <p>{teachers.map((t) => t.name).join(", ")}</p>
      </div>
    </>
  );
}

function JoinCode({ view }: { view: ClassView }) {
  const queryClient = useQueryClient();
  const change = useMutation({
    mutationFn: (on: boolean) =>
      ask(api.PUT("/api/classes/{id}/join-code", { params: { path: { id: view.id } }, body: { on } })),
    onSuccess: (now) => queryClient.setQueryData(classQuery(view.id).queryKey, now),
  });
  return (
    <section className={classes.section} aria-label="A code to join by">
      <h2>A code to join by</h2>
      {view.join_code ? (
        <>
          <p>
            Students open <b>{window.location.host}/join</b> and type
          </p>
          <p className={classes.code} data-testid="join-code">
            {view.join_code}
          </p>
          <p className={classes.dim}>Anyone with the code can join. Cancel it once everyone has.</p>
          <Button size="sm" variant="default" loading={change.isPending} onClick={() => change.mutate(false)}>
            Cancel this code
          </Button>
        </>
      ) : (
        <>
          <p className={classes.dim}>There is no code, so nobody can join by themselves.</p>
          <Button size="sm" variant="default" loading={change.isPending} onClick={() => change.mutate(true)}>
            Create a code
          </Button>
        </>
      )}
      {change.error && <Trouble error={change.error} />}
    </section>
  );
}
