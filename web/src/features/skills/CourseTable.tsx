import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import classes from "./SkillsPage.module.css";

type Point = Schemas["CoursePoint"];

/** The last point of each day, the newest first. */
function daily(course: Point[]): Point[] {
  const days = new Map<string, Point>();
  for (const point of course) days.set(new Date(point.at).toDateString(), point);
  return [...days.values()].reverse();
}

/** A skill's score as a table: a row for each day on which it changed. */
export function CourseTable({ title, course }: { title: string; course: Point[] }) {
  const rows = daily(course).filter((p, i, all) => p.score !== all[i + 1]?.score);
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
