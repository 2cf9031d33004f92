import { Accordion, Button, Progress, Skeleton } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useMemo, useRef, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask, Failure, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { GoalLines, towards } from "../../shared/GoalLines";
import { Steps } from "../../shared/Steps";
import { levelWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { TypingGuide } from "../../shared/TypingGuide";
import { moment, percent } from "../../shared/when";
import { LooseQuestion } from "../board/components/LooseQuestion";
import type { Given } from "../board/keeper";
import { RightAnswers } from "../loose/RightAnswers";
import { BesidePage } from "../reading/BesidePage";
import { ReadingOffer } from "../reading/ReadingOffer";
import { meQuery } from "../sign-in/queries";
import type { EnteredKeeper, Standing } from "./entered";
import classes from "./PracticePage.module.css";
import { useEntered } from "./useEntered";

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
  const me = useQuery(meQuery());
  const set = run.data?.assignment;
  return (
    <Frame
      trail={
        set ? [{ label: set.title, to: `/work/${set.id}` }, { label: "Practice" }] : [{ label: "Practice" }]
      }
    >
      {run.error && <Trouble heading={run.data ? undefined : "Practice"} error={run.error} />}
      {run.isPending && <Skeleton height={320} aria-label="Loading the question" />}
      {run.data && me.data && <Sheet run={run.data} person={me.data.user_name} />}
    </Frame>
  );
}

function Sheet({ run, person }: { run: Run; person: string }) {
  const queryClient = useQueryClient();
  const take = (next: Run) => queryClient.setQueryData(runQuery(run.id).queryKey, next);
  const path = { params: { path: { id: run.id } } };
  const revision = run.question.parts.reduce((most, p) => Math.max(most, p.draft?.revision ?? 0), 0);
  const { keeper, standing } = useEntered("practice", run.id, Number(run.question.set), person, revision);
  const check = useMutation({
    mutationFn: (parts: { id: string; response: Given }[]) =>
      ask(api.POST("/api/practice/{id}/check", { ...path, body: { parts } })),
    onSuccess: (answer) => {
      if (!answer.answered_now) keeper.resume();
      take(answer);
    },
    // Another window was first: what stands there now is shown.
    onError: (error) => {
      keeper.resume();
      if (error instanceof Failure && error.status === 409) {
        void queryClient.invalidateQueries({ queryKey: runQuery(run.id).queryKey });
      }
    },
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
    <div className={classes.columns}>
      <article className={classes.sheet}>
        <Goal run={run} />
        <Under run={run} />
        <Kept
          keeper={keeper}
          standing={standing}
          onTheirs={() => void queryClient.invalidateQueries({ queryKey: runQuery(run.id).queryKey })}
        />
        <h1>Question {run.question.set}</h1>
        <p className={classes.dim}>For {run.skill}</p>
        <Offer run={run} />
        <ReadFrom.Provider value={reader}>
          <LooseQuestion
            key={run.question.set}
            assignment={run.id}
            question={run.question}
            prefix=""
            pending={check.isPending}
            closed={run.answered_now}
            held={keeper.held()}
            onEnter={keeper.enter}
            onCheck={(parts) => {
              keeper.forget();
              check.mutate(parts);
            }}
          />
        </ReadFrom.Provider>
        {check.error && <Trouble error={check.error} />}
        {run.answered_now && <Answered run={run} onNext={() => next.mutate()} pending={next.isPending} />}
        {next.error && <Trouble error={next.error} />}
        <div className={classes.actions}>
          <span className={classes.dim} data-testid="entered" data-kept={standing.kind === "kept"}>
            {standing.kind === "kept" ? "Saved" : standing.kind === "keeping" ? "Saving…" : "Not saved yet"}
          </span>
          {run.assignment ? (
            <Link to="/work/$id" params={{ id: run.assignment.id }}>
              Stop here; everything is kept
            </Link>
          ) : (
            <Link to="/skills" search={{}}>
              Stop here; everything is kept
            </Link>
          )}
        </div>
      </article>
      <Beside key={run.question.set} question={run.question} />
    </div>
  );
}

type KeptProps = { keeper: EnteredKeeper; standing: Standing; onTheirs: () => void };

/** What hinders keeping what is typed, and what can be done. */
export function Kept({ keeper, standing, onTheirs }: KeptProps) {
  if (standing.kind === "elsewhere") {
    return (
      <div className={classes.unsaved} role="status">
        <p>Another window has changed this answer.</p>
        <Button size="compact-sm" onClick={() => keeper.settle(true)}>
          Keep this version
        </Button>{" "}
        <Button
          size="compact-sm"
          variant="default"
          onClick={() => {
            keeper.settle(false);
            onTheirs();
          }}
        >
          Use the other version
        </Button>
      </div>
    );
  }
  if (standing.kind === "kept" || standing.kind === "keeping") return null;
  return (
    <p className={classes.unsaved} role="status">
      {standing.kind === "refused"
        ? standing.words
        : "What you type is not being saved at the moment: the server is not answering. It keeps trying."}
    </p>
  );
}

/** Help beside the question: the pages of its skills, and how answers are typed. */
function Beside({ question }: { question: Run["question"] }) {
  const [opened, setOpened] = useState<string | null>(null);
  return (
    <aside className={classes.beside} aria-label="Help">
      <h2>Help</h2>
      <Accordion value={opened} onChange={setOpened} chevronPosition="left">
        {question.reading.map((page) => (
          <Accordion.Item key={page.skill} value={page.skill}>
            <Accordion.Control>Reading: {page.title}</Accordion.Control>
            <Accordion.Panel>{opened === page.skill && <BesidePage skill={page.skill} />}</Accordion.Panel>
          </Accordion.Item>
        ))}
        <Accordion.Item value="typing">
          <Accordion.Control>Typing guide</Accordion.Control>
          <Accordion.Panel>{opened === "typing" && <TypingGuide />}</Accordion.Panel>
        </Accordion.Item>
      </Accordion>
    </aside>
  );
}

/** Before first work on a skill, its page: offered, never forced. */
function Offer({ run }: { run: Run }) {
  const fresh = run.skills.filter((s) => s.level === "new" && s.page && !s.page.read);
  if (run.answered > 0 || run.answered_now || fresh.length === 0) return null;
  return <ReadingOffer skills={fresh} />;
}

/** How far the goal is reached; always in sight. */
function Goal({ run }: { run: Run }) {
  const { goal, assignment } = run;
  const one = goal.lines.length === 1 ? goal.lines[0] : undefined;
  const words =
    one?.line === "skill"
      ? `${one.title}: ${levelWords[run.skills[0]?.level ?? "new"]}, ${towards(one.score, one.wanted)}`
      : one?.line === "right"
        ? `${one.right} of ${one.wanted} right`
        : `${percent(Math.floor(goal.percent))} of the goal`;
  return (
    <div className={classes.goal} data-testid="goal">
      <div className={classes.line}>
        <p>
          {words} <span className={classes.dim}>· {run.answered} answered</span>
          {goal.reached && <strong> · You have reached the goal; carry on if you like.</strong>}
        </p>
        {assignment && !assignment.closed_because && (
          <Button component={Link} to={`/work/${assignment.id}/hand-in`} size="compact-sm" variant="default">
            Hand in
          </Button>
        )}
      </div>
      <Progress value={goal.percent} color="moss" size="md" aria-label="Progress to the goal" />
    </div>
  );
}

/** What the goal is made of, and the assignment that set it. */
function Under({ run }: { run: Run }) {
  const { goal, assignment } = run;
  return (
    <>
      {goal.lines.length > 1 && (
        <details className={classes.each}>
          <summary>Skill by skill</summary>
          <GoalLines goal={goal} />
        </details>
      )}
      {assignment && <SetBy assignment={assignment} />}
    </>
  );
}

/** The assignment that set it: what would be recorded. */
function SetBy({ assignment }: { assignment: NonNullable<Run["assignment"]> }) {
  if (assignment.closed_because) return <p className={classes.set}>{assignment.closed_because}</p>;
  return (
    <p className={classes.set}>
      Handing in now would record <strong>{percent(assignment.would_record)}</strong>
      {assignment.recorded && <>; recorded so far {percent(assignment.recorded.percent)}, the best counts</>}.
      Due {moment(assignment.due)}.
    </p>
  );
}

type AnsweredProps = { run: Run; onNext: () => void; pending: boolean };

/** One's own answer stands in the field above; here are the right one and the working. */
function Answered({ run, onNext, pending }: AnsweredProps) {
  const button = useRef<HTMLButtonElement>(null);
  useEffect(() => button.current?.focus(), []);
  return (
    <section className={classes.answered} aria-label="The answer">
      {!run.right_now && <RightAnswers answers={run.answers} parts={run.question.parts} />}
      {run.question.help.working && (
        <>
          <h2>The working</h2>
          <Steps steps={run.question.help.working} />
        </>
      )}
      <Button ref={button} loading={pending} onClick={onNext}>
        {run.right_now ? "Next question" : "A similar question"}
      </Button>
    </section>
  );
}
