import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { lazy, Suspense } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { LatePill } from "../../shared/LatePill";
import { kindWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment, percent, points } from "../../shared/when";
import { InPortal } from "../portal/InPortal";
import { scoresQuery } from "./queries";
import classes from "./ScoresPage.module.css";

/** Charts weigh more than the page: they come when they are first looked at. */
const TermLine = lazy(() => import("./TermLine"));

type Row = Schemas["ScoreRow"];

export function ScoresPage() {
  const scores = useQuery(scoresQuery());
  return (
    <Frame title="Scores">
      <div className={classes.head}>
        <h1>Scores</h1>
        {scores.data && scores.data.classes.length > 0 && (
          <a href="/api/scores.csv" download>
            Download CSV
          </a>
        )}
      </div>
      {scores.error && <Trouble error={scores.error} />}
      {scores.isPending && <Skeleton height={420} mt={20} aria-label="Loading your scores" />}
      {scores.data?.classes.length === 0 && (
        <p>You are not in a class yet. Scores appear here once you have handed something in.</p>
      )}
      {scores.data?.classes.map((c) => (
        <ClassScores key={c.title} scores={c} />
      ))}
    </Frame>
  );
}

function ClassScores({ scores }: { scores: Schemas["ClassScores"] }) {
  return (
    <section className={classes.class} aria-label={scores.title}>
      <header>
        <h2>{scores.title}</h2>
        <p>
          {scores.so_far == null
            ? "No results that count have been released yet."
            : `${percent(scores.so_far)} so far, over the ${percent(scores.weight_out)} of the class's weight that is out.`}
        </p>
      </header>
      <Suspense fallback={<Skeleton height={190} aria-label="Loading the chart" />}>
        <TermLine title={scores.title} rows={scores.rows} />
      </Suspense>
      <div className={classes.scroll}>
        <table className={classes.table}>
          <thead>
            <tr>
              <th>Assignment</th>
              <th>Recorded score</th>
              <th>Middle half of the class</th>
              <th>Weight</th>
              <th>Hand-ins</th>
              <th>Time spent</th>
              <th>Tries</th>
            </tr>
          </thead>
          <tbody>
            {scores.rows.map((row) => (
              <OneRow key={row.id} row={row} />
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function OneRow({ row }: { row: Row }) {
  return (
    <tr>
      <td>
        <Link to={row.recorded ? "/work/$id/result" : "/work/$id"} params={{ id: row.id }}>
          {row.title}
        </Link>
        <span className={classes.dim}>
          {kindWords[row.kind]} · {stateWords[row.state]} · due {moment(row.due)}
        </span>
      </td>
      <td>
        <Recorded row={row} />
      </td>
      <td>{row.class_band ? `${percent(row.class_band.low)} to ${percent(row.class_band.high)}` : "–"}</td>
      <td>{row.counts ? percent(row.weight) : "practice"}</td>
      <td>
        {row.receipts.length === 0
          ? "none"
          : row.receipts.map((n) => (
              <Link
                key={n}
                to="/work/$id/receipt/$number"
                params={{ id: row.id, number: String(n) }}
                className={classes.receipt}
              >
                {n}
              </Link>
            ))}
      </td>
      <td>{row.minutes_spent === 0 ? "–" : `${row.minutes_spent} min`}</td>
      <td>{row.tries_used === 0 ? "–" : row.tries_used}</td>
    </tr>
  );
}

function Recorded({ row }: { row: Row }) {
  if (!row.recorded) {
    if (row.results_at) return <>Results {moment(row.results_at)}</>;
    return <>{row.state === "closed_nothing_handed_in" ? "nothing handed in" : "–"}</>;
  }
  return (
    <>
      <strong>{percent(row.recorded.percent)}</strong>{" "}
      <span className={classes.dim}>
        {points(row.recorded.points)} of {row.recorded.of}
        {row.recorded.waiting > 0 && ` · ${points(row.recorded.waiting)} with the teacher`}
        {row.corrected && " · changed since"}
        {row.pass_mark != null &&
          (row.recorded.percent >= row.pass_mark
            ? " · passed"
            : row.recorded.waiting > 0
              ? ""
              : " · below the pass mark")}
      </span>
      {row.late && <LatePill />}
      <InPortal assignment={row.id} inline />
    </>
  );
}
