import { Button, Select, Skeleton, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { levelWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { ClassFrame } from "./ClassFrame";
import classes from "./Desk.module.css";
import { classQuery, classSkillsQuery } from "./queries";

/** Skills that were suggested, how far everybody is with them, and those students wish for. */
export function ClassSkillsPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/skills" });
  const found = useQuery(classSkillsQuery(id));
  const [skill, setSkill] = useState<string | null>(null);
  return (
    <ClassFrame id={id} here="Skills">
      {found.error && <Trouble error={found.error} />}
      {found.isPending && <Skeleton height={320} aria-label="Loading the skills" />}
      {found.data && (
        <div className={classes.columns}>
          <div>
            <section className={classes.section}>
              <h2>Suggested</h2>
              {found.data.suggested.length === 0 && (
                <p className={classes.dim}>
                  Nothing is suggested. What you suggest stands on each student’s Week until they have reached
                  it.
                </p>
              )}
              {found.data.suggested.map((s) => (
                <Suggested key={s.id} id={id} suggestion={s} />
              ))}
            </section>
            <section className={classes.section}>
              <h2>What students would like</h2>
              {found.data.wished.length === 0 && (
                <p className={classes.dim}>
                  No student has marked a skill yet. They can, under Skills, for anything they would like to
                  work on.
                </p>
              )}
              <ul className={classes.list}>
                {found.data.wished.map((w) => (
                  <li key={w.skill}>
                    <strong>{w.title}</strong>, by {w.students.length}
                    <span className={classes.dim}>: {w.students.join(", ")}</span>{" "}
                    <Button size="compact-xs" variant="default" onClick={() => setSkill(w.skill)}>
                      Suggest it
                    </Button>
                  </li>
                ))}
              </ul>
            </section>
          </div>
          <SuggestForm id={id} skills={found.data.skills} skill={skill} onSkill={setSkill} />
        </div>
      )}
    </ClassFrame>
  );
}

function Suggested({ id, suggestion: s }: { id: string; suggestion: Schemas["ClassSuggestion"] }) {
  const queryClient = useQueryClient();
  const back = useMutation({
    mutationFn: () =>
      ask(
        api.DELETE("/api/classes/{id}/skills/{suggestion}", { params: { path: { id, suggestion: s.id } } }),
      ),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["classes", id, "skills"] }),
  });
  return (
    <article className={classes.slab} aria-label={s.title}>
      <h3>{s.title}</h3>
      <p>
        To {s.only ?? "the whole class"}: <strong>{s.reached}</strong> of {s.students.length} have reached it.
      </p>
      {s.why && <p>“{s.why}”</p>}
      <p className={classes.dim}>
        {s.by}, {moment(s.at)}
      </p>
      <details>
        <summary>Progress by student</summary>
        <table className={classes.table}>
          <thead>
            <tr>
              <th scope="col">Student</th>
              <th scope="col">Level</th>
              <th scope="col">Score</th>
            </tr>
          </thead>
          <tbody>
            {s.students.map((student) => (
              <tr key={student.id}>
                <th scope="row">{student.name}</th>
                <td>
                  {levelWords[student.level]}
                  {student.reached && student.level !== "solid" ? ", reached before" : ""}
                </td>
                <td data-number="true">{student.score}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </details>
      {back.error && <Trouble error={back.error} />}
      <div className={classes.actions}>
        <Button size="compact-sm" variant="default" loading={back.isPending} onClick={() => back.mutate()}>
          Withdraw it
        </Button>
      </div>
    </article>
  );
}

type FormProps = {
  id: string;
  skills: Schemas["SkillNamed"][];
  skill: string | null;
  onSkill: (skill: string | null) => void;
};

function SuggestForm({ id, skills, skill, onSkill }: FormProps) {
  const queryClient = useQueryClient();
  const members = useQuery(classQuery(id));
  const [to, setTo] = useState("class");
  const [why, setWhy] = useState("");
  const suggest = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/classes/{id}/skills", {
          params: { path: { id } },
          body: {
            skill: skill ?? "",
            why,
            group: to.startsWith("group/") ? to.slice(6) : null,
            student: to.startsWith("student/") ? to.slice(8) : null,
          },
        }),
      ),
    onSuccess: async () => {
      setWhy("");
      onSkill(null);
      await queryClient.invalidateQueries({ queryKey: ["classes", id, "skills"] });
    },
  });
  const students = members.data?.members.filter((m) => !m.is_teacher && !m.left_at) ?? [];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (skill && !suggest.isPending) suggest.mutate();
  };
  return (
    <form className={classes.form} onSubmit={submit} aria-label="Suggest a skill">
      <h2>Suggest a skill</h2>
      <Select
        label="Skill"
        searchable
        data={skills.map((s) => ({ value: s.skill, label: s.title }))}
        value={skill}
        onChange={onSkill}
        nothingFoundMessage="No such skill"
      />
      <Select
        label="To"
        searchable
        allowDeselect={false}
        data={[
          { value: "class", label: "the whole class" },
          ...(members.data?.groups ?? []).map((g) => ({ value: `group/${g}`, label: `group ${g}` })),
          ...students.map((m) => ({ value: `student/${m.id}`, label: m.name })),
        ]}
        value={to}
        onChange={(value) => value && setTo(value)}
      />
      <TextInput
        label="Reason"
        description="Students read it on their Week."
        maxLength={300}
        value={why}
        onChange={(e) => setWhy(e.currentTarget.value)}
      />
      {suggest.error && <Trouble error={suggest.error} />}
      <div className={classes.actions}>
        <Button type="submit" disabled={!skill} loading={suggest.isPending}>
          Suggest
        </Button>
      </div>
      <p className={classes.dim}>
        A skill is reached at 95. Who has reached it does not see it any more. See also the{" "}
        <Link to="/classes/$id" params={{ id }}>
          sheet
        </Link>
        .
      </p>
    </form>
  );
}
