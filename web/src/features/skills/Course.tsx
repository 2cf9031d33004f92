import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import classes from "./SkillsPage.module.css";

type Point = Schemas["CoursePoint"];
type Props = { title: string; course: Point[]; from: string; now: string };

const width = 420;
const height = 120;
const left = 30;
const bottom = 20;

const dayMonth = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });

/** How a skill's score went, from its first check until now. The table beside it says the same. */
export function Course({ title, course, from, now }: Props) {
  const last = course.at(-1);
  if (!last) return null;
  const first = new Date(from).getTime();
  const span = Math.max(new Date(now).getTime() - first, 86_400_000);
  const x = (at: string) => left + ((new Date(at).getTime() - first) / span) * (width - left - 10);
  const y = (score: number) => 8 + (1 - score / 100) * (height - bottom - 8);
  const line = course.map((p) => `${x(p.at).toFixed(1)},${y(p.score).toFixed(1)}`).join(" L");
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className={classes.course}
      role="img"
      aria-label={`${title} over time: ${course[0]?.score} at first, ${last.score} now`}
    >
      {[0, 60, 95].map((score) => (
        <g key={score}>
          <line x1={left} x2={width - 10} y1={y(score)} y2={y(score)} className={classes.rule} />
          <text x={left - 5} y={y(score) + 4} textAnchor="end" className={classes.axis}>
            {score}
          </text>
        </g>
      ))}
      <path d={`M${line}`} className={classes.curve} />
      <rect x={x(last.at) - 4} y={y(last.score) - 4} width="8" height="8" className={classes.end} />
      <text x={left} y={height - 4} className={classes.axis}>
        {dayMonth.format(new Date(from))}
      </text>
      <text x={width - 10} y={height - 4} textAnchor="end" className={classes.axis}>
        now
      </text>
    </svg>
  );
}

/** The last point of each day, the newest first. */
export function daily(course: Point[]): Point[] {
  const days = new Map<string, Point>();
  for (const point of course) days.set(new Date(point.at).toDateString(), point);
  return [...days.values()].reverse();
}

/** The same as a table: a row a day on which the score changed. */
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
