import "@mantine/charts/styles.css";
import { LineChart } from "@mantine/charts";
import type { Schemas } from "../../api/client";
import { dayMonth } from "../../shared/when";
import { daily } from "./daily";

type Point = Schemas["CoursePoint"];
type Props = { title: string; course: Point[]; from: string; now: string };

/** How a skill's score went, from its first check until now. The table beside it says the same. */
export default function Course({ title, course, from, now }: Props) {
  const last = course.at(-1);
  if (!last) return null;
  const points = daily(course).map((p) => ({ at: new Date(p.at).getTime(), score: p.score }));
  const words = `${title} over time: ${course[0]?.score} at first, ${last.score} now`;
  return (
    <div role="img" aria-label={words}>
      <LineChart
        h={140}
        data={points}
        dataKey="at"
        series={[{ name: "score", label: "Score", color: "moss" }]}
        curveType="linear"
        withDots={points.length < 3}
        withTooltip={false}
        gridAxis="x"
        yAxisProps={{ domain: [0, 100], ticks: [0, 60, 95], width: 36 }}
        xAxisProps={{
          type: "number",
          domain: [new Date(from).getTime(), new Date(now).getTime()],
          ticks: [new Date(from).getTime(), new Date(now).getTime()],
          tickFormatter: (at: number) => (at === new Date(now).getTime() ? "now" : dayMonth(at)),
        }}
      />
    </div>
  );
}
