import { Button, Skeleton } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect } from "react";
import { CompareVersions } from "../../answers/program/Tries";
import { api, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Given } from "../../shared/Given";
import { GoalLines, goalWords } from "../../shared/GoalLines";
import { Line, Prose } from "../../shared/Prose";
import { kindWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { length, moment, percent, points } from "../../shared/when";
import { InPortal } from "../portal/InPortal";
import { resultQuery } from "./queries";
import classes from "./ResultPage.module.css";

type Result = Schemas["ResultView"];

export function ResultPage() {
  const { id } = useParams({ from: "/signed-in/work/$id/result" });
  const result = useQuery(resultQuery(id));
  return (
    <Frame trail={[{ label: result.data?.title ?? "Assignment", to: `/work/${id}` }, { label: "Result" }]}>
      {result.error && <Trouble heading={result.data ? undefined : "The result"} error={result.error} />}
      {result.isPending && <Skeleton height={420} aria-label="Loading the result" />}
      {result.data && <Sheet result={result.data} />}
    </Frame>
  );
}

/** That the result was looked at. */
function useSeen(result: Result) {
  const queryClient = useQueryClient();
  const { id, released } = result;
  useEffect(() => {
    if (!released) return;
    void api
      .POST("/api/assignments/{id}/seen", {
        params: { path: { id } },
        body: { event: 1_000_000_000, note: false, result: true },
      })
      .then(() => queryClient.invalidateQueries({ queryKey: ["week"] }))
      .catch(() => undefined);
  }, [id, released, queryClient]);
}

function Sheet({ result }: { result: Result }) {
  useSeen(result);
  return (
    <article className={classes.sheet}>
      <p className={classes.dim}>
        {result.class_title} · {kindWords[result.kind]}
        {result.counts ? "" : " · for practice only"} · {stateWords[result.state]}
      </p>
      <h1>Result of {result.title}</h1>
      {result.recorded ? <Recorded result={result} /> : <NotYet result={result} />}
      <HandIns result={result} />
      <p className={classes.dim}>
        {result.goal
          ? "What you practise and read is evidence of your skills, whether it is handed in or not."
          : `${length(result.minutes_spent * 60)} with the questions open · ${result.tries_used} ${
              result.tries_used === 1 ? "try" : "tries"
            } used in all`}
      </p>
      <div className={classes.actions}>
        {result.can_carry_on && (
          <Button component={Link} to={`/work/${result.id}`} variant="default">
            Carry on
          </Button>
        )}
        {result.can_practise && (
          <Button component={Link} to={`/work/${result.id}/practice/1`} variant="default">
            Practise, nothing recorded
          </Button>
        )}
      </div>
      {result.questions.map((q) => (
        <Question key={q.question} question={q} />
      ))}
    </article>
  );
}

function Recorded({ result }: { result: Result }) {
  const recorded = result.recorded;
  if (!recorded) return null;
  const counting = result.hand_ins.find((h) => h.number === result.counting);
  const passed = result.pass_mark != null && recorded.percent >= result.pass_mark;
  return (
    <>
      <p className={classes.score} data-testid="recorded-score">
        <strong>{percent(recorded.percent)}</strong> recorded
        {result.goal ? " of the goal" : `: ${points(recorded.points)} of ${recorded.of} points`}
      </p>
      {result.goal && (
        <>
          <p className={classes.dim}>
            The goal: {goalWords(result.goal).replace(/^./, (c) => c.toLowerCase())}. When you handed in, this
            was where you stood: stood like this:
          </p>
          <GoalLines goal={result.goal} />
        </>
      )}
      <InPortal assignment={result.id} />
      <ul className={classes.why}>
        {recorded.waiting > 0 && (
          <li data-testid="waiting-points">
            {points(recorded.waiting)} {recorded.waiting === 1 ? "point waits" : "points wait"} for your
            teacher, so this is not the last word.
          </li>
        )}
        {counting && counting.taken_off > 0 && (
          <li>{counting.taken_off} % was taken off because it came late.</li>
        )}
        {counting?.score_then && (
          <li>
            When you handed in, {percent(counting.score_then.percent)} was recorded. It has been changed
            since: see the questions below.
          </li>
        )}
        {result.hand_ins.length > 1 && (
          <li>
            Hand-in {result.counting} counts, the {result.best_counts ? "best" : "last"} of{" "}
            {result.hand_ins.length}.
          </li>
        )}
        {result.pass_mark != null && (
          <li>
            The pass mark is {result.pass_mark} %:{" "}
            {passed ? "reached" : recorded.waiting > 0 ? "not reached yet" : "not reached"}.
          </li>
        )}
      </ul>
    </>
  );
}

function NotYet({ result }: { result: Result }) {
  if (result.hand_ins.length > 0 && result.results_at) {
    return (
      <p className={classes.score}>
        It is handed in. The results show {moment(result.results_at)}, and Week will say when they are out.
      </p>
    );
  }
  return (
    <p className={classes.score}>
      Nothing was handed in, so there is no recorded score. What you did is kept.
    </p>
  );
}

function HandIns({ result }: { result: Result }) {
  if (result.hand_ins.length === 0) return null;
  return (
    <ul className={classes.handIns} aria-label="Hand-ins">
      {result.hand_ins.map((h) => (
        <li key={h.number}>
          <Link to="/work/$id/receipt/$number" params={{ id: result.id, number: String(h.number) }}>
            Receipt {h.number}
          </Link>
          : {moment(h.at)}
          {h.late ? ", late" : ""}
          {h.by_time ? ", when time ran out" : ""}
          {h.score ? `, ${percent(h.score.percent)}` : ""}
        </li>
      ))}
    </ul>
  );
}

function Question({ question }: { question: Schemas["ResultQuestion"] }) {
  const several = question.parts.length > 1;
  return (
    <section className={classes.question} aria-labelledby={`result-${question.question}`}>
      <header>
        <h2 id={`result-${question.question}`}>Question {question.question + 1}</h2>
        <span>
          {points(question.points)} of {question.of}
        </span>
        {question.set && <span className={classes.dim}>Set {question.set}</span>}
      </header>
      <Prose blocks={question.text} />
      {question.parts.map((part) => (
        <div key={part.id} className={classes.part}>
          {part.prompt.length > 0 && <Prose blocks={part.prompt} />}
          {part.given ? (
            <Given label={several ? `(${part.id})` : undefined} given={part.given} />
          ) : (
            <p className={classes.dim}>{several && `(${part.id}) `}Nothing was given here.</p>
          )}
          <CompareVersions
            versions={part.versions.map((v, n) => ({
              name: `Try ${n + 1}, ${moment(v.at)}${v.at_hand_in ? ", at hand-in" : ""}`,
              program: v.program,
            }))}
          />
          {part.marked && <Marked part={part.id} several={several} marked={part.marked} />}
          {part.model.length > 0 && (
            <details className={classes.working}>
              <summary>What a good answer says</summary>
              {part.model.map((line, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
                <p key={i}>
                  <Line content={line} />
                </p>
              ))}
            </details>
          )}
        </div>
      ))}
      <ul className={classes.why}>
        {question.why.map((words) => (
          <li key={words}>{words}</li>
        ))}
      </ul>
      {question.teacher_note.length > 0 && (
        <blockquote className={classes.note}>
          <Prose blocks={question.teacher_note} />
        </blockquote>
      )}
      {question.working && (
        <details className={classes.working}>
          <summary>The working</summary>
          <ol>
            {question.working.map((step, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: steps never change places
              <li key={i}>
                <Prose blocks={step} />
              </li>
            ))}
          </ol>
        </details>
      )}
    </section>
  );
}

type MarkedProps = { part: string; several: boolean; marked: Schemas["MarkedPartView"] };

/** What a person gave a part, and which lines of the rubric were met. */
function Marked({ part, several, marked }: MarkedProps) {
  return (
    <div className={classes.marked}>
      <p>
        {several && `(${part}) `}
        {points(marked.points)} of {points(marked.of)} from your teacher
        {marked.rubric.length > 0 && ", who looked for:"}
      </p>
      {marked.rubric.length > 0 && (
        <ul>
          {marked.rubric.map((line, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
            <li key={i} data-met={line.met}>
              <Line content={line.say} />
              <span>{line.met ? "there" : "missing"}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
