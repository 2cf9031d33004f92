import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { Frame } from "../../app/Frame";
import { kindWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { away, moment, percent } from "../../shared/when";
import { type Entry, leftInWords, spine } from "./model";
import { weekQuery } from "./queries";
import classes from "./WeekPage.module.css";

const actionWords = { open: "Open", carry_on: "Carry on", hand_in: "Hand in", look: "Look at it" } as const;

export function WeekPage() {
  const week = useQuery(weekQuery());
  return (
    <Frame>
      <h1>Week</h1>
      {week.error && <Trouble error={week.error} />}
      {week.isPending && <Skeleton height={320} mt={20} aria-label="Loading your week" />}
      {week.data && (
        <div className={classes.columns}>
          <Spine now={week.data.now} entries={week.data.assignments} next={week.data.next?.assignment} />
          <aside className={classes.side} aria-label="Next">
            <h2>Next</h2>
            {week.data.next ? (
              <>
                <p>
                  <strong>{week.data.next.title}</strong>
                </p>
                <p>{week.data.next.why}</p>
                <Link to="/work/$id" params={{ id: week.data.next.assignment }}>
                  To its cover sheet
                </Link>
              </>
            ) : (
              <p>Nothing is waiting. What your teachers set next will stand here.</p>
            )}
          </aside>
        </div>
      )}
    </Frame>
  );
}

type SpineProps = { now: string; entries: Entry[]; next: string | undefined };

function Spine({ now, entries, next }: SpineProps) {
  const { days, finished } = spine(now, entries);
  return (
    <div>
      {days.length === 0 && (
        <p>No work is set at the moment. It will appear here beside the day it is due.</p>
      )}
      {days.map((day) => (
        <section key={day.name} className={classes.day}>
          <h2 className={day.name === "Overdue" ? classes.late : undefined}>{day.name}</h2>
          <div className={classes.slabs}>
            {day.entries.map((entry) => (
              <Slab key={entry.id} now={now} entry={entry} isNext={entry.id === next} />
            ))}
          </div>
        </section>
      ))}
      {finished.length > 0 && (
        <details className={classes.finished} open>
          <summary>Finished ({finished.length})</summary>
          {finished.map((entry) => (
            <Slab key={entry.id} now={now} entry={entry} isNext={entry.id === next} />
          ))}
        </details>
      )}
    </div>
  );
}

function Slab({ now, entry, isNext }: { now: string; entry: Entry; isNext: boolean }) {
  const soon = new Date(entry.due).getTime() - new Date(now).getTime() < 48 * 3_600_000;
  const open = entry.state === "not_opened" || entry.state === "under_way";
  return (
    <article className={classes.slab} data-state={entry.state}>
      <div>
        <h3>
          <Link to="/work/$id" params={{ id: entry.id }}>
            {entry.title}
          </Link>
        </h3>
        <p className={classes.dim}>
          {entry.class_title} · {kindWords[entry.kind]}
          {entry.counts ? "" : " · for practice only"}
        </p>
        <p>
          <span className={open && soon ? classes.soon : undefined}>
            Due {moment(entry.due)} ({away(now, entry.due)})
          </span>
        </p>
      </div>
      <div className={classes.standing}>
        <p className={classes.state}>{stateWords[entry.state]}</p>
        {open && <p>{leftInWords(entry)}</p>}
        {entry.recorded ? (
          <p>
            Recorded score <strong>{percent(entry.recorded.percent)}</strong>
          </p>
        ) : (
          entry.score_so_far && (
            <p>
              Score so far <strong>{percent(entry.score_so_far.percent)}</strong>
            </p>
          )
        )}
      </div>
      <Button
        component={Link}
        to={entry.action === "hand_in" ? `/work/${entry.id}/hand-in` : `/work/${entry.id}`}
        variant={isNext ? "filled" : "default"}
        aria-label={`${actionWords[entry.action]}: ${entry.title}`}
      >
        {actionWords[entry.action]}
      </Button>
    </article>
  );
}
