import { Button, Skeleton, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { type FormEvent, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Given } from "../../shared/Given";
import { Prose } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { meQuery } from "../sign-in/queries";
import { Doubt } from "./Doubt";
import { settledWords, threadQuery } from "./queries";
import classes from "./Threads.module.css";

type View = Schemas["ThreadView"];

/** One thread: what it is about, and what was said. */
export function ThreadPage() {
  const { id } = useParams({ from: "/signed-in/messages/$id" });
  const queryClient = useQueryClient();
  const thread = useQuery(threadQuery(id));
  const read = thread.data !== undefined;
  // What was read is no longer counted.
  useEffect(() => {
    if (read) void queryClient.invalidateQueries({ queryKey: meQuery().queryKey });
  }, [read, queryClient]);
  const title = thread.data
    ? `${thread.data.head.assignment_title}, question ${thread.data.head.question + 1}`
    : "Message";
  return (
    <Frame trail={[{ label: "Messages", to: "/messages" }, { label: title }]}>
      {thread.error && <Trouble heading={thread.data ? undefined : "Message"} error={thread.error} />}
      {thread.isPending && <Skeleton height={320} aria-label="Loading the message" />}
      {thread.data && <Thread id={id} title={title} view={thread.data} />}
    </Frame>
  );
}

function Thread({ id, title, view }: { id: string; title: string; view: View }) {
  // Only who teaches the class is told whose thread it is.
  const teacher = view.student_id != null;
  return (
    <article className={classes.thread}>
      <h1>{title}</h1>
      <p className={classes.dim}>
        {[view.head.student, view.head.class_title, view.set && `Set ${view.set}`]
          .filter(Boolean)
          .join(" · ")}
        {view.head.settled && ` · ${settledWords[view.head.settled]}`}
        {view.mine && (
          <>
            {" · "}
            <Link
              to="/work/$id/question/$number"
              params={{ id: view.assignment, number: String(view.head.question + 1) }}
            >
              To the question
            </Link>
          </>
        )}
        {view.student_id && (
          <>
            {" · "}
            <Link
              to="/classes/$id/students/$person/$assignment"
              params={{ id: view.class, person: view.student_id, assignment: view.assignment }}
            >
              All of this work
            </Link>
          </>
        )}
      </p>
      {view.text.length > 0 && (
        <section className={classes.about} aria-label="The question">
          <Prose blocks={view.text} />
          {view.given.map((g) => (
            <Given key={g.id} label={view.given.length > 1 ? `(${g.id})` : undefined} given={g} />
          ))}
        </section>
      )}
      {view.doubt && (
        <Doubt id={id} doubt={view.doubt} hidden={view.head.hidden} settled={view.head.settled} />
      )}
      <section aria-label="Messages">
        {view.messages.map((m) => (
          <Message key={m.id} thread={id} message={m} />
        ))}
      </section>
      {(view.mine || teacher) && <AnswerForm id={id} />}
      {teacher && view.head.for_class && <Hide id={id} hidden={view.head.hidden} />}
    </article>
  );
}

function Message({ thread, message: m }: { thread: string; message: Schemas["MessageView"] }) {
  const queryClient = useQueryClient();
  const back = useMutation({
    mutationFn: () =>
      ask(
        api.DELETE("/api/threads/{id}/messages/{message}", {
          params: { path: { id: thread, message: m.id } },
        }),
      ),
    onSettled: () => queryClient.invalidateQueries({ queryKey: ["threads"] }),
  });
  return (
    <div className={classes.message} data-mine={m.mine}>
      <span className={classes.dim}>
        {m.mine ? "You" : m.by}
        {m.by_teacher && !m.mine ? ", teacher" : ""} · {moment(m.at)}
      </span>
      <p>{m.taken_back ? <i>Taken back.</i> : m.body}</p>
      {m.may_take_back && (
        <Button size="compact-xs" variant="subtle" loading={back.isPending} onClick={() => back.mutate()}>
          Take back
        </Button>
      )}
      {back.error && <Trouble error={back.error} />}
    </div>
  );
}

function AnswerForm({ id }: { id: string }) {
  const queryClient = useQueryClient();
  const [body, setBody] = useState("");
  const send = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/threads/{id}/messages", { params: { path: { id } }, body: { body } })),
    onSuccess: (now) => {
      setBody("");
      queryClient.setQueryData(threadQuery(id).queryKey, now);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!send.isPending) send.mutate();
  };
  return (
    <form className={classes.form} onSubmit={submit} aria-label="Answer">
      <Textarea
        label="Your answer"
        autosize
        minRows={2}
        maxLength={4000}
        value={body}
        onChange={(e) => setBody(e.currentTarget.value)}
      />
      {send.error && <Trouble error={send.error} />}
      <div className={classes.actions}>
        <Button type="submit" size="sm" disabled={body.trim() === ""} loading={send.isPending}>
          Send
        </Button>
      </div>
    </form>
  );
}

function Hide({ id, hidden }: { id: string; hidden: boolean }) {
  const queryClient = useQueryClient();
  const change = useMutation({
    mutationFn: () =>
      ask(api.PUT("/api/threads/{id}", { params: { path: { id } }, body: { hidden: !hidden } })),
    onSuccess: (now) => queryClient.setQueryData(threadQuery(id).queryKey, now),
  });
  return (
    <p className={classes.quiet}>
      <Button size="compact-sm" variant="subtle" loading={change.isPending} onClick={() => change.mutate()}>
        {hidden ? "Let the class read it" : "Hide it from the class"}
      </Button>
      {change.error && <Trouble error={change.error} />}
    </p>
  );
}
