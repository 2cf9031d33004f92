import { Button } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { moment } from "../../shared/when";
import { actionWords, addressOf } from "./model";
import classes from "./WeekPage.module.css";

type What = NonNullable<Schemas["WeekView"]["next"]>;

/** The single most useful thing to do now, and why. */
export function Next({ next }: { next: Schemas["WeekView"]["next"] }) {
  return (
    <aside className={classes.side} aria-label="Next">
      <h2>Next</h2>
      {next ? (
        <OneThing next={next} />
      ) : (
        <p>Nothing is waiting. What your teachers set next will appear here.</p>
      )}
    </aside>
  );
}

function OneThing({ next }: { next: What }) {
  if (next.kind === "work") {
    return (
      <>
        <p>
          <strong>{next.title}</strong> <span className={classes.dim}>{next.class_title}</span>
        </p>
        <p>{next.why}</p>
        {next.first && (
          <p>
            Your teacher asks for <strong>{next.first}</strong> first.
          </p>
        )}
        <Button
          component={Link}
          to={addressOf({ id: next.assignment, class_id: next.class_id }, next.action, false)}
          fullWidth
          mt={8}
        >
          {actionWords[next.action]}
        </Button>
      </>
    );
  }
  const slips = next.kind === "slips";
  return (
    <>
      <p>
        <strong>{slips ? "Slips that came back" : next.title}</strong>{" "}
        {!slips && <span className={classes.dim}>fading</span>}
      </p>
      <p>
        {next.why}
        {next.until && ` ${moment(next.until)}.`}
      </p>
      <Button component={Link} to={slips ? "/slips" : `/skills?skill=${next.skill}`} fullWidth mt={8}>
        {slips ? "Try them again" : "Practise"}
      </Button>
    </>
  );
}
