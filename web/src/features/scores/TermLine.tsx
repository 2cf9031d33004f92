import "@mantine/charts/styles.css";
import { CompositeChart } from "@mantine/charts";
import type { Schemas } from "../../api/client";
import { dayMonth, percent } from "../../shared/when";
import classes from "./ScoresPage.module.css";

type Row = Schemas["ScoreRow"];
type Props = { title: string; rows: Row[] };

/** A class's recorded scores over the term, with its middle half as a quiet band. The table below says the same. */
export default function TermLine({ title, rows }: Props) {
  // A closed one that nothing was handed in for counts as nothing.
  const counts = (r: Row) => r.recorded || (r.counts && r.state === "closed_nothing_handed_in");
  const out = rows.filter(counts).sort((a, b) => a.due.localeCompare(b.due));
  // One score makes no line; the table says it.
  if (out.length < 2) return null;
  const score = (r: Row) => r.recorded?.percent ?? 0;
  const said = (r: Row) => (r.recorded ? percent(score(r)) : "nothing handed in");
  const words = out.map((r) => `${r.title}: ${said(r)}`).join("; ");
  const points = out.map((r) => ({
    when: dayMonth(r.due),
    mine: score(r),
    ...(r.class_band ? { low: r.class_band.low, middle: r.class_band.high - r.class_band.low } : {}),
  }));
  const banded = out.some((r) => r.class_band);
  return (
    <figure className={classes.figure}>
      <h3 className="only-spoken">Over the term</h3>
      <div role="img" aria-label={`Recorded scores in ${title} over the term. ${words}`}>
        <CompositeChart
          h={190}
          data={points}
          dataKey="when"
          series={[
            { name: "low", type: "bar", color: "transparent", stackId: "band" } as never,
            { name: "middle", type: "bar", color: "var(--edge)", stackId: "band" } as never,
            { name: "mine", label: "Recorded score", type: "line", color: "moss" },
          ]}
          curveType="linear"
          withTooltip={false}
          maxBarWidth={26}
          gridAxis="x"
          yAxisProps={{
            domain: [0, 100],
            ticks: [0, 50, 100],
            width: 56,
            tickFormatter: (v: number) => `${v} %`,
          }}
        />
      </div>
      {banded && (
        <figcaption className={classes.dim}>
          Grey bars: the middle half of the class, where five or more handed in.
        </figcaption>
      )}
    </figure>
  );
}
