import { Button, Progress, Skeleton } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useMemo, useRef } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Maths } from "../../shared/Maths";
import { Line } from "../../shared/Prose";
import { levelWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { Steps } from "../board/components/HelpPanel";
import { LooseQuestion } from "../board/components/LooseQuestion";
import { ReadFrom } from "../board/components/ReadsAs";
import type { Given } from "../board/keeper";
import classes from "./PracticePage.module.css";

type Run = Schemas["PracticeRunView"];

const runQuery = (id: string) =>
  queryOptions({
    queryKey: ["practice-run", id],
    queryFn: () => ask(api.GET("/api/practice/{id}", { params: { path: { id } } })),
    staleTime: 0,
    refetchOnWindowFocus: false,
  });

/** Practice on skills: one question after the other, towards a goal, stopped at any moment. */
export function PracticeRunPage() {
  const { id } = useParams({ from: "/signed-in/practise/$id" });
  const run = useQuery(runQuery(id));
  return (
    <Frame trail={[{ label: "Practice" }]}>
      {run.error && <Trouble error={run.error} />}
      {run.isPending && <Skeleton height={320} aria-label="Loading the question" />}
      {run.data && <Sheet run={run.data} />}
    </Frame>
  );
}

function Sheet({ run }: { run: Run }) {
  const queryClient = useQueryClient();
  const take = (next: Run) => queryClient.setQueryData(runQuery(run.id).queryKey, next);
  const path = { params: { path: { id: run.id } } };
  const check = useMutation({
    mutationFn: (parts: { id: string; response: Given }[]) =>
      ask(api.POST("/api/practice/{id}/check", { ...path, body: { parts } })),
    onSuccess: take,
  });
  const next = useMutation({
    mutationFn: () => ask(api.POST("/api/practice/{id}/next", path)),
    onSuccess: (answer) => {
      check.reset();
      take(answer);
    },
  });
  const reader = useMemo(
    () => ({
      key: `${run.id}/${run.question.set}`,
      read: (part: string, entry: string) =>
        ask(
          api.POST("/api/practice/{id}/read", {
            params: { path: { id: run.id } },
            body: { part, entry },
          }),
        ),
    }),
    [run.id, run.question.set],
  );
  return (
    <article className={classes.sheet}>
      <Goal run={run} />
      <h1>Question {run.question.set}</h1>
      <p className={classes.dim}>For {run.skill}</p>
      <ReadFrom.Provider value={reader}>
        <LooseQuestion
          key={run.question.set}
          assignment={run.id}
          question={run.question}
          prefix=""
          pending={check.isPending}
          closed={run.answered_now}
          onCheck={(parts) => check.mutate(parts)}
        />
      </ReadFrom.Provider>
      {check.error && <Trouble error={check.error} />}
      {run.answered_now && <Answered run={run} onNext={() => next.mutate()} pending={next.isPending} />}
      {next.error && <Trouble error={next.error} />}
      <div className={classes.actions}>
        <Link to="/skills" search={{}}>
          Stop here; everything is kept
        </Link>
      </div>
    </article>
  );
}

/** How far the goal is reached; always in sight. */
function Goal({ run }: { run: Run }) {
  const words = run.right_wanted
    ? `${run.right} of ${run.right_wanted} right`
    : run.skills.map((s) => `${s.title}: ${levelWords[s.level]}, ${s.score} of 95`).join("; ");
  return (
    <div className={classes.goal} data-testid="goal">
      <p>
        {words} <span className={classes.dim}>· {run.answered} answered</span>
        {run.reached && <strong> · The goal is reached; you can go on if you like.</strong>}
      </p>
      <Progress value={run.progress} color="moss" size="md" aria-label="Progress to the goal" />
    </div>
  );
}

type AnsweredProps = { run: Run; onNext: () => void; pending: boolean };

/** One's own answer stands in the field above; here are the right one and the working. */
function Answered({ run, onNext, pending }: AnsweredProps) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => button.current?.focus(), []);
  const several = run.answers.length > 1;
  return (
    <section className={classes.answered} aria-label="The answer">
      {!run.right_now && (
        <div className={classes.right} data-testid="right-answer">
          <h2>The right answer</h2>
          {run.answers.map((answer) => (
            <p key={answer.part}>
              {several && `(${answer.part}) `}
              {answer.latex ? (
                <Maths latex={answer.latex} spoken={answer.speech} />
              ) : (
                answer.choices.map((choice, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: choices never change places
                  <span key={i}>
                    <Line content={choice} />{" "}
                  </span>
                ))
              )}
            </p>
          ))}
        </div>
      )}
      {run.question.help.working && (
        <>
          <h2>The working</h2>
          <Steps steps={run.question.help.working} />
        </>
      )}
      <Button ref={button} loading={pending} onClick={onNext}>
        {run.right_now ? "Next question" : "A like question"}
      </Button>
    </section>
  );
}
