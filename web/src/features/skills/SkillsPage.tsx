import { Button, SegmentedControl, Skeleton, UnstyledButton } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { levelWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { suggestionsQuery } from "../course/queries";
import { ReadingOffer } from "../reading/ReadingOffer";
import { LazyCourse } from "./LazyCourse";
import { OverTime } from "./OverTime";
import { skillsQuery } from "./queries";
import classes from "./SkillsPage.module.css";
import { Suggestion, Wish } from "./Wish";

type Skill = Schemas["SkillView"];

/** What one can do: strata of skills, the lowest first, each filled to its score. */
export function SkillsPage() {
  const skills = useQuery(skillsQuery());
  const { time: overTime = false } = useSearch({ from: "/signed-in/skills" });
  const navigate = useNavigate();
  return (
    <Frame title="Skills">
      <h1>Skills</h1>
      <p className={classes.dim}>
        {overTime
          ? "How certain it was, day by day, that you know each skill you have started. Right answers raise a line, wrong ones lower it, and it sinks slowly while you do not practise."
          : "The lowest stratum comes first; a skill opens when those it builds on are at least steady. Each layer is filled to show how certain it is that you know it, with a notch at 95."}
      </p>
      {skills.error && <Trouble error={skills.error} />}
      {skills.isPending && <Skeleton height={420} mt={20} aria-label="Loading your skills" />}
      {skills.data && (
        <SegmentedControl
          aria-label="What is shown"
          size="sm"
          value={overTime ? "time" : "now"}
          onChange={(value) => navigate({ to: "/skills", search: value === "time" ? { time: true } : {} })}
          data={[
            { value: "now", label: "Now" },
            { value: "time", label: "Over time" },
          ]}
          className={classes.switch}
        />
      )}
      {skills.data && (overTime ? <OverTime view={skills.data} /> : <Strata view={skills.data} />)}
    </Frame>
  );
}

function Strata({ view }: { view: Schemas["SkillsView"] }) {
  const { skill: chosen } = useSearch({ from: "/signed-in/skills" });
  const count = Math.max(...view.skills.map((s) => s.stratum)) + 1;
  const strata = Array.from({ length: count }, (_, n) => view.skills.filter((s) => s.stratum === n));
  const open = view.skills.find((s) => s.id === chosen);
  return (
    <>
      {open && <Opened key={open.id} skill={open} now={view.now} />}
      <div className={classes.strata}>
        {strata.map((skills, n) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: strata are named by their number
          <section key={n} aria-label={`Stratum ${n + 1}`}>
            <h2>{n === 0 ? "Ground" : `Stratum ${n + 1}`}</h2>
            {skills.map((skill) => (
              <Layer key={skill.id} skill={skill} solid={view.solid} chosen={skill.id === chosen} />
            ))}
          </section>
        ))}
      </div>
    </>
  );
}

function Layer({ skill, solid, chosen }: { skill: Skill; solid: number; chosen: boolean }) {
  const navigate = useNavigate();
  const { data } = useQuery(suggestionsQuery());
  const suggested = data?.suggested.some((s) => s.skill.id === skill.id);
  const locked = skill.missing.length > 0 && skill.level === "new";
  const words = locked ? "not open yet" : levelWords[skill.level];
  return (
    <UnstyledButton
      className={classes.layer}
      data-level={locked ? "locked" : skill.level}
      aria-expanded={chosen}
      onClick={() => navigate({ to: "/skills", search: chosen ? {} : { skill: skill.id } })}
    >
      <span className={classes.name}>{skill.title}</span>
      <svg viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
        <rect width={skill.score} height="8" className={classes.fill} />
        <rect width="100" height="8" className={classes.edge} />
        <path d={`M${solid} 0 v8`} className={classes.notch} />
      </svg>{" "}
      <span className={classes.level}>
        {words}
        {skill.level !== "new" && <span> · {skill.score}</span>}
        {suggested && <span className={classes.suggested}>suggested</span>}
        {skill.from_start && skill.evidence.length === 0 && skill.level !== "new" && (
          <span className={classes.suggested}>starting point</span>
        )}
      </span>
    </UnstyledButton>
  );
}

/** The evidence behind a score, and what would change it. */
function Opened({ skill, now }: { skill: Skill; now: string }) {
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => head.current?.focus(), []);
  return (
    <article className={classes.opened}>
      <h2 ref={head} tabIndex={-1}>
        {skill.title}
      </h2>
      <p>
        {skill.words} <span className={classes.dim}>{skill.class}</span>
      </p>
      {skill.from_start && (
        <p>
          From your starting point in {skill.from_start.class}, {moment(skill.from_start.at)}:{" "}
          {skill.from_start.score} of 100. It stands for what came before your first check; later work
          overrules it.
        </p>
      )}
      {skill.level === "new" ? (
        <p>New: nothing has been checked on it yet.</p>
      ) : (
        <p>
          <strong>
            {levelWords[skill.level].replace(/^./, (c) => c.toUpperCase())}, {skill.score} of 100
          </strong>
          . If the next answer you type is right first time, it becomes {skill.next_right}; if it is wrong,{" "}
          {skill.next_wrong}. Days without it let it fade slowly.
        </p>
      )}
      {skill.missing.length > 0 && (
        <p>
          It opens when {skill.missing.join(" and ")} {skill.missing.length === 1 ? "is" : "are"} at least
          steady.
        </p>
      )}
      {skill.requires.length > 0 && <p className={classes.dim}>Stands on: {skill.requires.join(", ")}.</p>}
      {skill.opens.length > 0 && <p className={classes.dim}>Helps to open: {skill.opens.join(", ")}.</p>}
      {skill.opened_by && (
        <p>
          Your teacher opened it with <strong>{skill.opened_by}</strong>.
        </p>
      )}
      {skill.level === "new" && skill.page && !skill.page.read ? (
        <ReadingOffer skills={[skill]} />
      ) : (
        skill.page && (
          <p>
            <Link to="/read/$skill" params={{ skill: skill.id }} search={{}}>
              The page on {skill.title}
            </Link>{" "}
            <span className={classes.dim}>
              {skill.page.read ? "read" : `about ${skill.page.minutes} min`}
            </span>
          </p>
        )
      )}
      <Suggestion skill={skill.id} />
      <Practise skill={skill} />
      <Wish skill={skill.id} />
      {skill.course.length > 1 && (
        <LazyCourse title={skill.title} course={skill.course} from={skill.course[0]?.at ?? now} now={now} />
      )}
      {skill.evidence.length > 0 && <EvidenceTable skill={skill} />}
    </article>
  );
}

/** Begins practice on a skill, towards solid or a number right. */
function Practise({ skill }: { skill: Skill }) {
  const navigate = useNavigate();
  const start = useMutation({
    mutationFn: (right: number | null) =>
      ask(api.POST("/api/practice", { body: { skills: [skill.id], right } })),
    onSuccess: ({ id }) => navigate({ to: "/practise/$id", params: { id } }),
  });
  const locked = skill.missing.length > 0 && skill.level === "new";
  if (locked) return null;
  return (
    <>
      <div className={classes.actions}>
        <Button loading={start.isPending} onClick={() => start.mutate(null)}>
          Practise until solid
        </Button>
        <Button variant="default" disabled={start.isPending} onClick={() => start.mutate(5)}>
          Practise until 5 are right
        </Button>
        <span className={classes.dim}>
          Fresh questions each time. Stop whenever you like; everything is kept.
        </span>
      </div>
      {start.error && <Trouble error={start.error} />}
    </>
  );
}

function EvidenceTable({ skill }: { skill: Skill }) {
  return (
    <table className={classes.table}>
      <caption>First checks on new numbers. Later tries on the same set do not count.</caption>
      <thead>
        <tr>
          <th>When</th>
          <th>Where</th>
          <th>First check</th>
          <th>Score after it</th>
        </tr>
      </thead>
      <tbody>
        {[...skill.evidence].reverse().map((e) => (
          <tr key={`${e.at}/${e.source}/${e.score}`}>
            <td>{moment(e.at)}</td>
            <td>{e.source}</td>
            <td>
              {e.right ? "right" : "not right"}
              {e.weaker && <span className={classes.dim}> · counts less</span>}
            </td>
            <td>{e.score}</td>
          </tr>
        ))}
      </tbody>
      {skill.evidence_left_out > 0 && (
        <tfoot>
          <tr>
            <td colSpan={4}>
              {skill.evidence_left_out === 1
                ? "One earlier check"
                : `${skill.evidence_left_out} earlier checks`}{" "}
              not shown; the score rests on them too.
            </td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}
