import { Accordion, Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useEffect, useMemo, useRef, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask, Failure, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { TypingGuide } from "../../shared/TypingGuide";
import { Calculator } from "../board/components/Calculator";
import { LooseQuestion } from "../board/components/LooseQuestion";
import type { Given } from "../board/keeper";
import { myClassesQuery } from "../course/queries";
import { Kept } from "../practice/PracticeRunPage";
import { useEntered } from "../practice/useEntered";
import { meQuery } from "../sign-in/queries";
import { Found } from "./Found";
import { startQuery } from "./queries";
import classes from "./Start.module.css";

type View = Schemas["StartPointView"];
type Asking = Extract<View["standing"], { standing: "asking" }>;

/** A class's starting point: what it is, its questions one by one, and what it found out. */
export function StartPage() {
  const { id } = useParams({ from: "/signed-in/class/$id/start" });
  const start = useQuery(startQuery(id));
  const me = useQuery(meQuery());
  const { data } = start;
  return (
    <Frame trail={[{ label: data?.class_title ?? "Class", to: `/class/${id}` }, { label: "Starting point" }]}>
      {start.error && <Trouble heading={data ? undefined : "Starting point"} error={start.error} />}
      {start.isPending && <Skeleton height={320} aria-label="Loading the starting point" />}
      {data?.standing.standing === "not_begun" && <Before view={data} standing={data.standing} />}
      {data?.standing.standing === "asking" && me.data && (
        <Question key={data.standing.number} view={data} asking={data.standing} person={me.data.user_name} />
      )}
      {data?.standing.standing === "done" && (
        <Found
          view={data}
          done={data.standing}
          again={data.again ? <Begin view={data} label="Do it again" /> : null}
        />
      )}
    </Frame>
  );
}

type BeforeProps = { view: View; standing: Extract<View["standing"], { standing: "not_begun" }> };

/** What it is, before it begins. */
function Before({ view, standing }: BeforeProps) {
  if (standing.nothing) {
    return (
      <article className={classes.sheet}>
        <h1>Starting point</h1>
        <p>There is nothing to ask here yet: this class has no skills. Its work is on the class page.</p>
      </article>
    );
  }
  return (
    <article className={classes.sheet}>
      <p className={classes.dim}>{view.class_title}</p>
      <h1>Starting point</h1>
      <p>
        A short quiz that finds out what you already know of the {standing.skills} skills in this class, so
        that you neither sit through what you can do nor start with what is still too far off.
      </p>
      <ul className={classes.plain}>
        <li>Have paper and pencil ready, take your time, and work by yourself.</li>
        <li>
          Up to {view.most} questions; it stops sooner when enough is known. Each question depends on what you
          answered before.
        </li>
        <li>
          <strong>Not learned yet</strong> is an answer like any other, and better than a guess: it spares you
          questions that build on it.
        </li>
        <li>
          There are no hints, and nothing says right or wrong while it runs. The calculator is there where a
          question has one.
        </li>
        <li>Put it aside whenever you like; it carries on where you stopped.</li>
        <li>No score is recorded. It sets where your skills start, and your later work overrules it.</li>
      </ul>
      <Begin view={view} label="Begin" />
    </article>
  );
}

function Begin({ view, label }: { view: View; label: string }) {
  const queryClient = useQueryClient();
  const begin = useMutation({
    mutationFn: () => ask(api.POST("/api/class/{id}/start", { params: { path: { id: view.class } } })),
    onSuccess: (next) => {
      queryClient.setQueryData(startQuery(view.class).queryKey, next);
      void queryClient.invalidateQueries({ queryKey: myClassesQuery().queryKey });
    },
  });
  return (
    <>
      <Button loading={begin.isPending} onClick={() => begin.mutate()}>
        {label}
      </Button>
      {begin.error && <Trouble error={begin.error} />}
    </>
  );
}

type QuestionProps = { view: View; asking: Asking; person: string };

function Question({ view, asking, person }: QuestionProps) {
  const queryClient = useQueryClient();
  const { number, question } = asking;
  const key = startQuery(view.class).queryKey;
  const revision = question.parts.reduce((most, p) => Math.max(most, p.draft?.revision ?? 0), 0);
  const { keeper, standing } = useEntered("start", view.class, number, person, revision);
  const answer = useMutation({
    mutationFn: (parts: { id: string; response: Given }[] | null) =>
      ask(
        api.POST("/api/class/{id}/start/answer", {
          params: { path: { id: view.class } },
          body: { number, parts },
        }),
      ),
    onSuccess: (next) => {
      if (next.standing.standing === "asking" && next.standing.number === number) keeper.resume();
      queryClient.setQueryData(key, next);
      if (next.standing.standing === "done") void queryClient.invalidateQueries();
    },
    onError: (error) => {
      keeper.resume();
      // Another window answered it: what is asked now is shown.
      if (error instanceof Failure && error.status === 409 && error.code === "answered") {
        void queryClient.invalidateQueries({ queryKey: key });
      }
    },
  });
  const reader = useMemo(
    () => ({
      key: `start/${view.class}/${number}`,
      read: (part: string, entry: string) =>
        ask(
          api.POST("/api/class/{id}/start/read", {
            params: { path: { id: view.class } },
            body: { part, entry },
          }),
        ),
    }),
    [view.class, number],
  );
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => head.current?.focus(), []);
  return (
    <div className={classes.columns}>
      <article className={classes.sheet}>
        <Kept
          keeper={keeper}
          standing={standing}
          onTheirs={() => void queryClient.invalidateQueries({ queryKey: key })}
        />
        <h1 ref={head} tabIndex={-1}>
          Question {number}
        </h1>
        <p className={classes.dim}>
          {number} of at most {view.most}. Nothing is said of right or wrong here.
        </p>
        <ReadFrom.Provider value={reader}>
          <LooseQuestion
            assignment={view.class}
            question={question}
            prefix=""
            pending={answer.isPending && answer.variables !== null}
            held={keeper.held()}
            onEnter={keeper.enter}
            action="Give this answer"
            beside={
              <Button
                size="sm"
                mt={10}
                ml={10}
                variant="default"
                loading={answer.isPending && answer.variables === null}
                onClick={() => {
                  keeper.forget();
                  answer.mutate(null);
                }}
              >
                Not learned yet
              </Button>
            }
            onCheck={(parts) => {
              keeper.forget();
              answer.mutate(parts);
            }}
          />
        </ReadFrom.Provider>
        {answer.error && <Trouble error={answer.error} />}
        <div className={classes.actions}>
          <span className={classes.dim} data-testid="entered" data-kept={standing.kind === "kept"}>
            {standing.kind === "kept" ? "Saved" : standing.kind === "keeping" ? "Saving…" : "Not saved yet"}
          </span>
          <Link to="/class/$id" params={{ id: view.class }}>
            Put aside; everything is kept
          </Link>
        </div>
      </article>
      <Tools classId={view.class} calculator={question.calculator} />
    </div>
  );
}

/** How answers are typed, and the calculator where the question has one. Nothing that helps with the question. */
function Tools({ classId, calculator }: { classId: string; calculator: boolean }) {
  const [opened, setOpened] = useState<string | null>(null);
  return (
    <aside className={classes.beside} aria-label="Tools">
      <h2>Tools</h2>
      <Accordion value={opened} onChange={setOpened} chevronPosition="left">
        {calculator && (
          <Accordion.Item value="calculator">
            <Accordion.Control>Calculator</Accordion.Control>
            <Accordion.Panel>
              {opened === "calculator" && <Calculator assignment={classId} question={0} start />}
            </Accordion.Panel>
          </Accordion.Item>
        )}
        <Accordion.Item value="typing">
          <Accordion.Control>Typing guide</Accordion.Control>
          <Accordion.Panel>{opened === "typing" && <TypingGuide />}</Accordion.Panel>
        </Accordion.Item>
      </Accordion>
      {!calculator && <p className={classes.dim}>This question is meant to be done without a calculator.</p>}
    </aside>
  );
}
