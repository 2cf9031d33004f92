import { Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { type ReactNode, useId } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Prose } from "../../shared/Prose";
import { Sound } from "../../shared/Sound";
import { kindWords, levelWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { away, moment, percent } from "../../shared/when";
import classes from "./CoursePage.module.css";
import { courseQuery, myClassesQuery } from "./queries";

type Course = Schemas["CourseView"];
type Item = Schemas["CourseItem"];
type Work = Schemas["CourseWork"];

/** A class with its units: what is read, done, due and open. */
export function CoursePage() {
  const { id } = useParams({ from: "/signed-in/class/$id" });
  const course = useQuery(courseQuery(id));
  return (
    <Frame trail={[{ label: course.data?.title ?? "Class" }]}>
      {course.error && <Trouble heading={course.data ? undefined : "Class"} error={course.error} />}
      {course.isPending && <Skeleton height={420} aria-label="Loading the class" />}
      {course.data && <Loaded course={course.data} />}
    </Frame>
  );
}

const dayOf = (day: string) =>
  new Date(`${day}T12:00`).toLocaleDateString("en-GB", { day: "numeric", month: "long" });

function Loaded({ course }: { course: Course }) {
  const about = [
    course.teachers.length > 0 && `with ${course.teachers.join(" and ")}`,
    course.starts_on && course.ends_on && `${dayOf(course.starts_on)} to ${dayOf(course.ends_on)}`,
  ].filter(Boolean);
  const counting = course.units
    .flatMap((u) => u.items)
    .flatMap((i) => (i.what.kind === "assignment" ? [i.what.work] : []))
    .concat(course.others)
    .filter((w) => w.counts);
  return (
    <>
      <h1>{course.title}</h1>
      {about.length > 0 && <p className={classes.dim}>{about.join(" · ")}</p>}
      {course.word && (
        <blockquote className={classes.word}>
          {course.word.split("\n").map((line, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
            <p key={i}>{line}</p>
          ))}
        </blockquote>
      )}
      <StartLine id={course.id} />
      {course.units.length === 0 && course.others.length === 0 && (
        <p>There is nothing here yet. What your teacher puts in this class will be listed, unit by unit.</p>
      )}
      <div className={classes.columns}>
        <div>
          {course.units.map((unit, i) => (
            <Unit key={unit.id} course={course} unit={unit} number={i + 1} />
          ))}
          {course.others.length > 0 && (
            <section className={classes.unit} aria-label="Other work">
              <h2>{course.units.length > 0 ? "Beside the units" : "Work"}</h2>
              <ul>
                {course.others.map((work) => (
                  <li key={work.id}>
                    <WorkLine now={course.now} work={work} title={work.title} />
                  </li>
                ))}
              </ul>
            </section>
          )}
        </div>
        {counting.length > 0 && (
          <aside className={classes.counts} aria-label="What counts">
            <h2>What counts</h2>
            <table>
              <thead>
                <tr>
                  <th scope="col">Assignment</th>
                  <th scope="col">of the grade</th>
                  <th scope="col">score</th>
                </tr>
              </thead>
              <tbody>
                {counting.map((w) => (
                  <tr key={w.id}>
                    <th scope="row">{w.title}</th>
                    <td>{percent(w.weight)}</td>
                    <td>{w.recorded ? percent(w.recorded.percent) : "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p>
              <Link to="/scores">All scores</Link>
            </p>
          </aside>
        )}
      </div>
    </>
  );
}

const startWords = {
  none: "finds out what you already know of this class’s skills; optional",
  offered: "a short quiz on what you already know",
  under_way: "put aside; carry on where you stopped",
  again: "your teacher lets you do it again",
  done: "done: what you know, and what comes next",
};

/** The class's starting point, as far as one is with it. */
function StartLine({ id }: { id: string }) {
  const { data } = useQuery(myClassesQuery());
  const start = data?.classes.find((c) => c.id === id)?.start;
  if (!start) return null;
  return (
    <p>
      <Link to="/class/$id/start" params={{ id }}>
        Starting point
      </Link>{" "}
      <span className={classes.dim}>{startWords[start]}</span>
    </p>
  );
}

const orderWords = {
  free: "",
  advised: "Best done in this order.",
  asked: "Done in this order: each opens when the one before is done.",
};

function Unit({ course, unit, number }: { course: Course; unit: Schemas["CourseUnit"]; number: number }) {
  const head = useId();
  return (
    <section className={classes.unit} aria-labelledby={head}>
      <h2 id={head}>
        {number}. {unit.title}
      </h2>
      {unit.about && <p>{unit.about}</p>}
      <p className={classes.dim}>
        {unit.items.length === 0
          ? "This unit is still empty."
          : `${unit.done} of ${unit.items.length} done. ${orderWords[unit.order]}`}
      </p>
      <ol>
        {unit.items.map((item, place) => (
          <li key={item.id} data-next={place === unit.next || undefined}>
            <Line course={course} item={item} next={place === unit.next} />
          </li>
        ))}
      </ol>
    </section>
  );
}

const standingWords = { open: "open", begun: "begun", done: "done" } as const;

type RowProps = { mark: Item["standing"] | "held"; title: ReactNode; kind: string; children: ReactNode };

/** One line: a mark with its word, what it is, and where it stands. */
function Row({ mark, title, kind, children }: RowProps) {
  return (
    <div className={classes.row}>
      <span className={classes.mark} data-mark={mark} aria-hidden="true" />
      <span className={classes.title}>
        {title} <span className={classes.dim}>{kind}</span>
      </span>
      <span className={classes.stands}>{children}</span>
    </div>
  );
}

function Line({ course, item, next }: { course: Course; item: Item; next: boolean }) {
  const { what } = item;
  const held = item.first ? `first: ${item.first}` : undefined;
  const mark = held ? "held" : item.standing;
  const said = held ?? (next && item.standing === "open" ? "next" : standingWords[item.standing]);
  if (what.kind === "assignment") {
    return <WorkLine now={course.now} work={what.work} title={item.title} held={held} next={next} />;
  }
  if (what.kind === "recording") return <Heard course={course} item={item} recording={what.recording} />;
  if (what.kind === "page") {
    const { page } = what.skill;
    return (
      <Row
        mark={mark}
        kind={page ? `page, about ${page.minutes} min` : "page"}
        title={
          <Link to="/read/$skill" params={{ skill: what.skill.id }} search={{}}>
            {item.title}
          </Link>
        }
      >
        {held ?? (item.standing === "done" ? "read" : said)}
      </Row>
    );
  }
  return (
    <Row
      mark={mark}
      kind="practice"
      title={
        <Link to="/skills" search={{ skill: what.skill }}>
          {item.title}
        </Link>
      }
    >
      {held ?? (what.level === "new" ? said : `${levelWords[what.level]}, ${what.score}`)}
    </Row>
  );
}

type WorkProps = {
  now: string;
  work: Work;
  title: string;
  held?: string | undefined;
  next?: boolean;
};

function WorkLine({ now, work, title, held, next }: WorkProps) {
  const waits = new Date(work.opens) > new Date(now);
  const done = !["not_opened", "under_way"].includes(work.state);
  const mark = held || waits ? "held" : done ? "done" : work.state === "under_way" ? "begun" : "open";
  const state = waits
    ? `opens ${moment(work.opens)}`
    : (held ?? (next && work.state === "not_opened" ? "next" : stateWords[work.state].toLowerCase()));
  return (
    <Row
      mark={mark}
      kind={[
        kindWords[work.work_kind].toLowerCase(),
        work.counts ? `${percent(work.weight)} of the grade` : "does not count",
      ].join(", ")}
      title={
        <Link to="/work/$id" params={{ id: work.id }}>
          {title}
        </Link>
      }
    >
      {state}
      {work.recorded ? `, ${percent(work.recorded.percent)}` : ""}
      {!done && (
        <span className={classes.due}>
          due {moment(work.due)}, {away(now, work.due)}
        </span>
      )}
    </Row>
  );
}

type HeardProps = { course: Course; item: Item; recording: Schemas["SoundView"] };

function Heard({ course, item, recording }: HeardProps) {
  const queryClient = useQueryClient();
  const heard = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/class/{id}/heard/{item}", { params: { path: { id: course.id, item: item.id } } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["class", course.id] }),
  });
  const done = item.standing === "done";
  return (
    <>
      <Row mark={item.first ? "held" : item.standing} kind="recording" title={item.title}>
        {item.first ? `first: ${item.first}` : done ? "heard" : "open"}
      </Row>
      <details className={classes.recording}>
        <summary>Listen, or read what is said</summary>
        <Sound
          title={recording.title}
          address={recording.address}
          transcript={<Prose blocks={recording.transcript} />}
          onEnd={() => !done && heard.mutate()}
        />
        {!done && (
          <button
            type="button"
            className={classes.plain}
            disabled={heard.isPending}
            onClick={() => heard.mutate()}
          >
            I have heard or read it
          </button>
        )}
        {heard.error && <Trouble error={heard.error} />}
      </details>
    </>
  );
}
