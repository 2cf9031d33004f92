import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { CompareVersions } from "../../answers/program/Tries";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Given } from "../../shared/Given";
import { Prose } from "../../shared/Prose";
import { stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { length, moment, percent, points } from "../../shared/when";
import { height, outline, width } from "../board/components/InkPad";
import { versionsOf } from "../board/components/TriesPanel";
import classes from "./Desk.module.css";
import { ExceptionForm } from "./ExceptionForm";
import { workSeenQuery } from "./queries";

/** A student's work: every set, try and entry, and why the score is what it is. */
export function WorkSeenPage() {
  const { id, person, assignment } = useParams({
    from: "/signed-in/classes/$id/students/$person/$assignment",
  });
  const seen = useQuery(workSeenQuery(id, person, assignment));
  const title = seen.data ? `${seen.data.student}: ${seen.data.title}` : "Work";
  return (
    <Frame trail={[{ label: seen.data?.class_title ?? "Class", to: `/classes/${id}` }, { label: title }]}>
      {seen.error && <Trouble heading={seen.data ? undefined : "Work"} error={seen.error} />}
      {seen.isPending && <Skeleton height={420} aria-label="Loading the work" />}
      {seen.data && <Work seen={seen.data} id={id} person={person} assignment={assignment} />}
    </Frame>
  );
}

type Props = { seen: Schemas["WorkSeen"]; id: string; person: string; assignment: string };

function Work({ seen, id, person, assignment }: Props) {
  const [excepting, setExcepting] = useState(false);
  return (
    <article>
      <div className={classes.head}>
        <h1>
          {seen.student}: {seen.title}
        </h1>
        <Button size="sm" variant="default" onClick={() => setExcepting(true)}>
          Give an exception
        </Button>
      </div>
      {excepting && (
        <ExceptionForm
          id={id}
          students={[{ id: person, name: seen.student }]}
          assignments={[{ id: assignment, title: seen.title }]}
          onDone={() => setExcepting(false)}
        />
      )}
      <p className={`${classes.facts} ${classes.dim}`}>
        <span>{stateWords[seen.state]}</span>
        <span>due {moment(seen.due)}</span>
        {seen.closes !== seen.due && <span>closes {moment(seen.closes)}</span>}
        {seen.opened_at && <span>opened {moment(seen.opened_at)}</span>}
        <span>{length(seen.minutes * 60)} with the questions open</span>
      </p>
      {seen.has_paper && (
        <p>
          <Link to="/classes/$id/students/$person/$assignment/paper" params={{ id, person, assignment }}>
            What was written on paper
          </Link>
        </p>
      )}
      <p>
        {seen.recorded ? (
          <>
            <b>{percent(seen.recorded.percent)}</b> recorded: {points(seen.recorded.points)} of{" "}
            {seen.recorded.of} points
            {seen.taken_off > 0 && `, after ${seen.taken_off} % taken off because it came late`}
            {seen.recorded.waiting > 0 && `, ${points(seen.recorded.waiting)} still wait`}
          </>
        ) : seen.so_far ? (
          <>
            Nothing is handed in. <b>{percent(seen.so_far.percent)}</b> so far.
          </>
        ) : (
          "Not opened yet."
        )}
      </p>
      {seen.hand_ins.length > 0 && (
        <ul aria-label="Hand-ins">
          {seen.hand_ins.map((h) => (
            <li key={h.number}>
              Hand-in {h.number}: {moment(h.at)}, {percent(h.percent)}
              {h.late && ", late"}
              {h.by_time && ", when time ran out"}
              {h.taken_back && ", taken back"}
              {h.counts && ": this one counts"}
            </li>
          ))}
        </ul>
      )}
      {seen.questions.map((q) => (
        <Question key={q.question} question={q} />
      ))}
    </article>
  );
}

function Question({ question }: { question: Schemas["QuestionSeen"] }) {
  return (
    <section className={classes.slab} aria-labelledby={`seen-${question.question}`}>
      <h2 id={`seen-${question.question}`}>
        Question {question.question + 1}: {question.title}
      </h2>
      <p>
        <b>
          {points(question.points)} of {question.of}
        </b>
        {". "}
        {question.why.join(" ")}
        {question.example_seen && " The worked example was looked at."}
      </p>
      {[...question.sets].reverse().map((set) => (
        <details key={set.set} open={question.sets.length === 1 && set.tries.length > 0}>
          <summary>
            Set {set.set}: {set.tries.length === 1 ? "1 check" : `${set.tries.length} checks`}
            {set.hints > 0 && `, ${set.hints} ${set.hints === 1 ? "hint" : "hints"}`}
            {set.solution_shown && ", the working was shown"}
          </summary>
          <Prose blocks={set.text} />
          <ol>
            {set.tries.map((t) => (
              <li key={t.at}>
                <p className={classes.dim}>
                  {moment(t.at)}
                  {t.at_hand_in ? " · at hand-in" : t.used_a_try ? "" : " · no try used"}
                </p>
                {t.parts.map((p) => (
                  <Given key={p.id} label={t.parts.length > 1 ? `(${p.id})` : undefined} given={p} brief />
                ))}
              </li>
            ))}
          </ol>
          <CompareVersions versions={versionsOf(set, undefined, moment)} />
        </details>
      ))}
      {question.workings && <Workings workings={question.workings} />}
    </section>
  );
}

/** Notes and ink, where the student lets them be seen. */
function Workings({ workings }: { workings: Schemas["WorkingsSeen"] }) {
  return (
    <details>
      <summary>Notes and ink</summary>
      {workings.notes && <p style={{ whiteSpace: "pre-wrap" }}>{workings.notes}</p>}
      {workings.ink.length > 0 && (
        <svg viewBox={`0 0 ${width} ${height}`} width={2 * width} role="img" aria-label="Ink">
          {workings.ink.map((stroke, at) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: strokes never change places
            <path key={at} d={outline(stroke)} fill="currentColor" />
          ))}
        </svg>
      )}
    </details>
  );
}
