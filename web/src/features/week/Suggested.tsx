import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { levelWords } from "../../shared/states";
import { myClassesQuery, suggestionsQuery } from "../course/queries";
import classes from "./WeekPage.module.css";

/** Skills that a teacher suggests, until they are reached. */
export function Suggested() {
  const { data } = useQuery(suggestionsQuery());
  if (!data || data.suggested.length === 0) return null;
  return (
    <section className={classes.side} aria-label="Suggested skills">
      <h2>Suggested by your teacher</h2>
      <ul className={classes.waiting}>
        {data.suggested.map((s) => (
          <li key={s.id}>
            <Link to="/skills" search={{ skill: s.skill.id }}>
              {s.skill.title}
            </Link>{" "}
            <span className={classes.dim}>
              {levelWords[s.skill.level]}
              {s.skill.level !== "new" && `, ${s.skill.score}`}
            </span>
            {s.why && (
              <span className={classes.why}>
                “{s.why}” <span className={classes.dim}>{s.by}</span>
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const startWords: Record<string, string> = {
  offered: "a short quiz on what you already know",
  under_way: "put aside; carry on where you stopped",
  again: "your teacher lets you do it again",
};

/** The classes one is in, each with its page. */
export function MyClasses() {
  const { data } = useQuery(myClassesQuery());
  if (!data || data.classes.length === 0) return null;
  return (
    <nav className={classes.side} aria-label="Classes">
      <h2>{data.classes.length === 1 ? "Class" : "Classes"}</h2>
      <ul className={classes.waiting}>
        {data.classes.map((c) => (
          <li key={c.id}>
            <Link to="/class/$id" params={{ id: c.id }}>
              {c.title}
            </Link>{" "}
            <span className={classes.dim}>{c.teachers.join(", ")}</span>
            {["offered", "under_way", "again"].includes(c.start) && (
              <span className={classes.why}>
                <Link to="/class/$id/start" params={{ id: c.id }}>
                  Starting point
                </Link>{" "}
                <span className={classes.dim}>{startWords[c.start]}</span>
              </span>
            )}
          </li>
        ))}
      </ul>
    </nav>
  );
}
