import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import { daily } from "./daily";
import classes from "./SkillsPage.module.css";

type Point = Schemas["CoursePoint"];

/** A skill's score as a table: a row for each day on which it changed. */
export function CourseTable({ title, course }: { title: string; course: Point[] }) {
  const rows = daily(course)
    .reverse()
    .filter((p, i, all) => p.score !== all[i + 1]?.score);
  return (
    <table className={classes.table}>
      <caption>{title}: the score at the end of each day on which it changed</caption>
      <thead>
        <tr>
          <th>Day</th>
          <th>Score</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((p) => (
          <tr key={p.at}>
            <td>{moment(p.at).split(",")[0]}</td>
            <td>{p.score}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
