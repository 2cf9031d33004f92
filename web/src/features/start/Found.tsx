import { Link } from "@tanstack/react-router";
import { type ReactNode, useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import classes from "./Start.module.css";

type View = Schemas["StartPointView"];
type Done = Extract<View["standing"], { standing: "done" }>;
type Stratum = Schemas["StratumView"];

export const strata: { id: Stratum; heading: string; empty: string }[] = [
  {
    id: "known",
    heading: "What you know",
    empty: "Nothing is certain yet. That is what a starting point is for.",
  },
  { id: "next", heading: "What comes next", empty: "Nothing: you seem to know all of it." },
  { id: "far_off", heading: "Still far off", empty: "Nothing is far off." },
];

/** What a starting point found out, and a first week of work. */
export function Found({ view, done, again }: { view: View; done: Done; again: ReactNode }) {
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => head.current?.focus(), []);
  return (
    <>
      <p className={classes.dim}>{view.class_title}</p>
      <h1 ref={head} tabIndex={-1} className={classes.head}>
        Where you start
      </h1>
      <p className={classes.words}>
        After {done.asked === 1 ? "one question" : `${done.asked} questions`}, {moment(done.at)}. Under Skills
        the same picture is marked as coming from here; the first check on a skill says more than this, and
        later work overrules it.
      </p>
      {again && (
        <div className={classes.again}>
          <p>Your teacher lets you do it again. These results count until then.</p>
          {again}
        </div>
      )}
      <div className={classes.strata}>
        {strata.map(({ id, heading, empty }) => {
          const skills = done.skills.filter((s) => s.stratum === id);
          return (
            <section key={id} aria-label={heading}>
              <h2>{heading}</h2>
              {skills.length === 0 && <p className={classes.dim}>{empty}</p>}
              <ul className={classes.layers}>
                {skills.map((s) => (
                  <li key={s.id} className={classes.layer} data-stratum={id}>
                    <Link to="/skills" search={{ skill: s.id }}>
                      {s.title}
                    </Link>
                    <span className={classes.about}>{s.words}</span>
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
      </div>
      <section aria-label="A first week" className={classes.week}>
        <h2>A first week</h2>
        <p className={classes.dim}>
          One skill a day, half an hour or so. It is only a suggestion: what is due comes first.
        </p>
        <ol>
          {done.week.map((day) => (
            <li key={day.skill}>
              {day.make_sure ? (
                <>
                  Make sure of{" "}
                  <Link to="/skills" search={{ skill: day.skill }}>
                    {day.title}
                  </Link>{" "}
                  with a few questions: it counts as known, but least surely.
                </>
              ) : (
                <>
                  {day.page && !day.page.read && (
                    <>
                      Read{" "}
                      <Link to="/read/$skill" params={{ skill: day.skill }} search={{}}>
                        {day.title}
                      </Link>{" "}
                      (about {day.page.minutes} min), then{" "}
                    </>
                  )}
                  {(!day.page || day.page.read) && <>Practise </>}
                  <Link to="/skills" search={{ skill: day.skill }}>
                    {day.page && !day.page.read ? "practise it" : day.title}
                  </Link>{" "}
                  until five are right.
                </>
              )}
            </li>
          ))}
        </ol>
        {done.open.length > 0 && (
          <>
            <p>Due in this class:</p>
            <ul>
              {done.open.map((work) => (
                <li key={work.id}>
                  <Link to="/work/$id" params={{ id: work.id }}>
                    {work.title}
                  </Link>{" "}
                  <span className={classes.dim}>due {moment(work.due)}</span>
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
    </>
  );
}
