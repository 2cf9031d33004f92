import { Button, NativeSelect, SegmentedControl, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { LatePill } from "../../shared/LatePill";
import { kindWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { away, clock, length, moment, percent, points } from "../../shared/when";
import { TermsWaiting } from "../cards/Terms";
import { actionWords, addressOf, type Entry, leftInWords, spine } from "./model";
import { Next } from "./Next";
import { Notices } from "./Notices";
import { weekQuery } from "./queries";
import { MyClasses, Suggested } from "./Suggested";
import { Unread } from "./Unread";
import { Fading, Slips } from "./Waiting";
import classes from "./WeekPage.module.css";

export function WeekPage() {
  const week = useQuery(weekQuery());
  return (
    <Frame title="Week">
      <div className={classes.top}>
        <h1>Week</h1>
        {week.data && <p data-testid="to-do">{toDoWords(week.data.to_do)}</p>}
      </div>
      {week.error && <Trouble error={week.error} />}
      {week.isPending && <Skeleton height={320} mt={20} aria-label="Loading your week" />}
      {week.data && <Loaded week={week.data} />}
    </Frame>
  );
}

function toDoWords(count: number): string {
  if (count === 0) return "Nothing needs doing now.";
  return count === 1 ? "One thing needs doing." : `${count} things need doing.`;
}

function Loaded({ week }: { week: Schemas["WeekView"] }) {
  const search = useSearch({ from: "/signed-in/" });
  const shown = week.assignments.filter(
    (a) => (!search.class || a.class_title === search.class) && (!search.counting || a.counts),
  );
  return (
    <>
      <Filters classes={[...new Set(week.assignments.map((a) => a.class_title))].sort()} />
      <div className={classes.columns}>
        <Spine
          now={week.now}
          entries={shown}
          next={week.next?.kind === "work" ? week.next.assignment : undefined}
          hasMore={week.assignments.length > shown.length}
          earlier={week.earlier}
        />
        <div className={classes.right}>
          <Next next={week.next} />
          <Slips now={week.now} slips={week.slips} />
          <TermsWaiting />
          <Suggested />
          <Fading now={week.now} fading={week.fading} />
          <Unread />
          <Notices now={week.now} notices={week.notices} />
          <MyClasses />
        </div>
      </div>
    </>
  );
}

function Filters({ classes: titles }: { classes: string[] }) {
  const search = useSearch({ from: "/signed-in/" });
  const navigate = useNavigate();
  return (
    <fieldset className={classes.filters}>
      <legend className="only-spoken">What is shown</legend>
      <NativeSelect
        aria-label="Class"
        size="sm"
        value={search.class ?? ""}
        onChange={(e) =>
          navigate({
            to: "/",
            search: { ...search, class: e.currentTarget.value || undefined },
            replace: true,
          })
        }
        data={[{ value: "", label: "All classes" }, ...titles.map((t) => ({ value: t, label: t }))]}
      />
      <SegmentedControl
        aria-label="What counts"
        size="sm"
        value={search.counting ? "counting" : ""}
        onChange={(value) =>
          navigate({ to: "/", search: { ...search, counting: value ? true : undefined }, replace: true })
        }
        data={[
          { value: "", label: "Everything" },
          { value: "counting", label: "What counts" },
        ]}
      />
    </fieldset>
  );
}

type SpineProps = {
  now: string;
  entries: Entry[];
  next: string | undefined;
  hasMore: boolean;
  earlier: number;
};

function Spine({ now, entries, next, hasMore, earlier }: SpineProps) {
  const { days, finished } = spine(now, entries);
  return (
    <div>
      {days.length === 0 && (
        <p>
          {hasMore
            ? "Nothing of this kind is open. Choose “All classes” and “Everything” to see the rest."
            : "No work is set at the moment. It will appear here beside the day it is due."}
        </p>
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
      {earlier > 0 && (
        <p className={classes.dim}>
          {earlier === 1 ? "One piece of work" : `${earlier} pieces of work`} closed more than four weeks ago:
          see <Link to="/scores">Scores</Link>.
        </p>
      )}
    </div>
  );
}

/** When it is due and what late means, or when it was handed in. */
function Dates({ now, entry }: { now: string; entry: Entry }) {
  const soon = new Date(entry.due).getTime() - new Date(now).getTime() < 48 * 3_600_000;
  const open = entry.state === "not_opened" || entry.state === "under_way";
  const overdue = open && new Date(entry.due) < new Date(now);
  if (new Date(entry.opens) > new Date(now)) {
    return (
      <>
        Opens {moment(entry.opens)} ({away(now, entry.opens)}); due {moment(entry.due)}
      </>
    );
  }
  if (!open && entry.handed_in_at) {
    return (
      <>
        Handed in {moment(entry.handed_in_at)}
        {entry.handed_in_late && (
          <>
            {" "}
            <LatePill />
          </>
        )}
        {entry.state === "handed_in" && <>; due {moment(entry.due)}</>}
      </>
    );
  }
  return (
    <>
      <span className={open && soon && !overdue ? classes.soon : undefined}>
        {overdue ? "Was due" : "Due"} {moment(entry.due)} ({away(now, entry.due)})
      </span>
      {entry.due_moved && " · moved for you"}
      {overdue && (
        <>
          {" "}
          <LatePill>
            {entry.late.rule === "percent_off"
              ? `Late: ${entry.late.percent} % off until ${moment(entry.closes)}`
              : `Late: open until ${moment(entry.closes)}`}
          </LatePill>
        </>
      )}
    </>
  );
}

function Slab({ now, entry, isNext }: { now: string; entry: Entry; isNext: boolean }) {
  const open = entry.state === "not_opened" || entry.state === "under_way";
  const early = new Date(entry.opens) > new Date(now);
  return (
    <article className={classes.slab} data-state={entry.state} data-next={isNext}>
      <div>
        <h3>
          <Link to="/work/$id" params={{ id: entry.id }}>
            {entry.title}
          </Link>
        </h3>
        <p className={classes.dim}>
          {entry.class_title} · {kindWords[entry.kind]}
          {entry.counts ? "" : " · for practice only"}
          {entry.time_limit != null && ` · ${length(entry.time_limit * 60)}`}
        </p>
        <p>
          <Dates now={now} entry={entry} />
        </p>
      </div>
      <div>
        <p className={classes.state}>{early ? "Not open yet" : stateWords[entry.state]}</p>
        {open && <p>{leftInWords(entry)}</p>}
        {entry.first && !early && (
          <p>
            First: <strong>{entry.first}</strong>
          </p>
        )}
        {open && entry.time_ends && new Date(entry.time_ends) > new Date(now) && (
          <p className={classes.soon}>Time ends {clock(entry.time_ends)}</p>
        )}
        <Score entry={entry} />
      </div>
      <Button
        component={Link}
        to={addressOf(entry, entry.action, entry.goal != null)}
        variant="default"
        aria-label={`${actionWords[entry.action]}: ${entry.title}`}
      >
        {actionWords[entry.action]}
      </Button>
    </article>
  );
}

function Score({ entry }: { entry: Entry }) {
  if (entry.recorded) {
    return (
      <p>
        Recorded score <strong>{percent(entry.recorded.percent)}</strong>
        {entry.recorded.waiting > 0 && <>; {points(entry.recorded.waiting)} points are with the teacher</>}
      </p>
    );
  }
  if (entry.results_at) return <p>Results {moment(entry.results_at)}</p>;
  if (!entry.score_so_far) return null;
  return (
    <p>
      Score so far <strong>{percent(entry.score_so_far.percent)}</strong>
    </p>
  );
}
