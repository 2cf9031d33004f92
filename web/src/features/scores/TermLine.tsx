import type { Schemas } from "../../api/client";
import { moment, percent } from "../../shared/when";
import classes from "./ScoresPage.module.css";

type Row = Schemas["ScoreRow"];
type Props = { title: string; rows: Row[] };

const width = 900;
const height = 170;
const left = 40;
const bottom = 22;

/** A class's recorded scores over the term, with its middle half as a quiet band. The table below says the same. */
export function TermLine({ title, rows }: Props) {
  // A closed one that nothing was handed in for counts as nothing.
  const counts = (r: Row) => r.recorded || (r.counts && r.state === "closed_nothing_handed_in");
  const out = rows.filter(counts).sort((a, b) => a.due.localeCompare(b.due));
  if (out.length === 0) return null;
  const times = out.map((r) => new Date(r.due).getTime());
  const first = Math.min(...times);
  const span = Math.max(...times) - first || 1;
  const x = (row: Row) => left + 14 + ((new Date(row.due).getTime() - first) / span) * (width - left - 40);
  const y = (value: number) => 8 + (1 - value / 100) * (height - bottom - 8);
  const path = (pick: (row: Row) => number) => out.map((r) => `${x(r)},${y(pick(r))}`).join(" L");
  const banded = out.filter((r) => r.class_band);
  const score = (r: Row) => r.recorded?.percent ?? 0;
  const said = (r: Row) => (r.recorded ? percent(score(r)) : "nothing handed in");
  const words = out.map((r) => `${r.title}: ${said(r)}`).join("; ");
  return (
    <figure className={classes.figure}>
      <h3 className="only-spoken">Over the term</h3>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        role="img"
        aria-label={`Recorded scores in ${title} over the term. ${words}`}
      >
        {[0, 50, 100].map((value) => (
          <g key={value}>
            <line x1={left} x2={width} y1={y(value)} y2={y(value)} stroke="var(--edge)" />
            <text x={left - 6} y={y(value) + 4} textAnchor="end" className={classes.axis}>
              {value} %
            </text>
          </g>
        ))}
        {banded.map((r) => {
          const { low = 0, high = 0 } = r.class_band ?? {};
          const tall = Math.max(y(low) - y(high), 3);
          return (
            <rect key={r.id} x={x(r) - 13} y={y(high)} width={26} height={tall} className={classes.band} />
          );
        })}
        <path d={`M${path(score)}`} className={classes.line} />
        {out.map((r) => (
          <path
            key={r.id}
            d={`M${x(r) - 6} ${y(score(r)) + 5} l2 -11 l9 1 l1 10 Z`}
            className={classes.point}
          >
            <title>{`${r.title}, ${moment(r.due)}: ${said(r)}`}</title>
          </path>
        ))}
      </svg>
      {banded.length > 0 && (
        <figcaption className={classes.dim}>
          Grey bars: the middle half of the class, where five or more handed in.
        </figcaption>
      )}
    </figure>
  );
}
