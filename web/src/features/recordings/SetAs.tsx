import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import { worksQuery } from "./queries";
import classes from "./Recordings.module.css";

/** The assignments that a recording is set as: that it hands itself in, and when it did. */
export function SetAs({ recording, done }: { recording: string; done: boolean }) {
  const { data } = useQuery(worksQuery(recording, done));
  return data?.works.map((work) => <OneWork key={work.id} work={work} />);
}

function OneWork({ work }: { work: Schemas["WatchWork"] }) {
  return (
    <p className={classes.setAs} data-testid="set-as">
      <Link to="/work/$id" params={{ id: work.id }}>
        {work.title}
      </Link>{" "}
      <span className={classes.dim}>{work.class_title}</span> ·{" "}
      {work.handed_in_at
        ? `handed in ${moment(work.handed_in_at)}`
        : `due ${moment(work.due)}; it is handed in by itself once all of it was seen and every stop answered`}
    </p>
  );
}
