import { Button, Skeleton, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Maths } from "../../shared/Maths";
import { Trouble } from "../../shared/Trouble";
import { length } from "../../shared/when";
import classes from "./Desk.module.css";
import { wentQuery } from "./queries";
import { several } from "./words";

type Question = Schemas["QuestionWentView"];
type Place = { id: string; assignment: string };

/** How it went, question by question. */
export function WentPage() {
  const { id, assignment } = useParams({ from: "/signed-in/classes/$id/work/$assignment/went" });
  const went = useQuery(wentQuery(id, assignment));
  return (
    <Frame
      trail={[
        { label: went.data?.class_title ?? "Class", to: `/classes/${id}` },
        { label: went.data?.title ?? "Work", to: `/classes/${id}/work/${assignment}` },
        { label: "How it went" },
      ]}
    >
      {went.error && <Trouble heading={went.data ? undefined : "How it went"} error={went.error} />}
      {went.isPending && <Skeleton height={420} aria-label="Looking at every answer" />}
      {went.data && (
        <>
          <h1>How {went.data.title} went</h1>
          <p className={classes.dim}>
            <a href={`/api/classes/${id}/assignments/${assignment}/went.csv`} download>
              Download CSV
            </a>
            {" · "}
            {went.data.begun === 1 ? "1 student has" : `${went.data.begun} students have`} begun.
          </p>
          {went.data.questions.map((q) => (
            <OneQuestion key={q.question} question={q} place={{ id, assignment }} />
          ))}
        </>
      )}
    </Frame>
  );
}

function OneQuestion({ question: q, place }: { question: Question; place: Place }) {
  const share = (n: number) => `${n} of ${q.tried}`;
  const groups = q.parts.flatMap((p) => p.groups.map((g) => ({ part: p.part, group: g })));
  return (
    <section className={classes.slab} aria-labelledby={`went-${q.question}`}>
      <h2 id={`went-${q.question}`}>
        Question {q.question + 1}: {q.title}
      </h2>
      {q.tried === 0 ? (
        <p className={classes.dim}>Nothing has been checked here yet.</p>
      ) : (
        <p className={classes.facts}>
          <span>right first time: {share(q.right_first)}</span>
          <span>right eventually: {share(q.right_in_the_end)}</span>
          <span>
            {q.checks} {q.checks === 1 ? "check" : "checks"} on {q.sets} {q.sets === 1 ? "set" : "sets"}
          </span>
          <span>
            {q.hints} {q.hints === 1 ? "hint" : "hints"}
          </span>
          {q.seconds != null && <span>about {spentWords(q.seconds)} each</span>}
        </p>
      )}
      {q.parts.some((p) => p.doubtful) && (
        <p className={classes.needs}>
          Most wrong entries agree with each other: check that the key is right.{" "}
          <Link to="/bank/$slug/edit" params={{ slug: q.id }}>
            Edit the question
          </Link>
        </p>
      )}
      {groups.length > 0 && (
        <ul>
          {groups.map(({ part, group }) => (
            <li key={`${part}${JSON.stringify(group.like)}`}>
              <Group
                part={q.parts.length > 1 ? part : null}
                ask={{ ...place, question: q.question, part }}
                group={group}
              />
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

const spentWords = (seconds: number) =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds / 10)) * 10} seconds` : length(seconds);

/** A choice's words, in which maths stands between dollar signs. */
function WithMaths({ text }: { text: string }) {
  const pieces = text
    .split(/\$([^$]+)\$/)
    .map((piece, place) => ({ piece, maths: place % 2 === 1, id: `${place}` }));
  return pieces.map(({ piece, maths, id }) =>
    maths ? <Maths key={id} latex={piece} /> : <span key={id}>{piece}</span>,
  );
}

type GroupProps = {
  part: string | null;
  ask: Place & { question: number; part: string };
  group: Schemas["EntryGroupView"];
};

function Group({ part, ask: at, group }: GroupProps) {
  const queryClient = useQueryClient();
  const [writing, setWriting] = useState(false);
  const [words, setWords] = useState(group.reply);
  const write = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/classes/{id}/assignments/{assignment}/questions/{question}/reply", {
          params: { path: { id: at.id, assignment: at.assignment, question: at.question } },
          body: { part: at.part, like: group.like, words },
        }),
      ),
    onSuccess: async () => {
      await queryClient.invalidateQueries({ queryKey: wentQuery(at.id, at.assignment).queryKey });
      setWriting(false);
    },
  });
  return (
    <>
      <b>{group.students.length}</b>
      {part && ` (${part})`}:{" "}
      {group.reads_as ? <Maths latex={group.reads_as} /> : <WithMaths text={group.given} />}
      {group.common && <span className={classes.dim}> · {group.common}</span>}
      <span className={classes.dim}> · {several(group.students)}</span>
      {group.reply && !writing && <p>You say: {group.reply}</p>}{" "}
      {!writing && (
        <Button size="compact-xs" variant="subtle" onClick={() => setWriting(true)}>
          {group.reply ? "Change the reply" : "Write a reply"}
        </Button>
      )}{" "}
      <MessageThem at={at} group={group} />
      {writing && (
        <div className={classes.form}>
          <Textarea
            label="What the next students who enter this are told"
            description="Shown beside the verdict. Leave it empty for no reply."
            autosize
            minRows={2}
            maxLength={600}
            autoFocus
            value={words}
            onChange={(e) => setWords(e.currentTarget.value)}
          />
          {write.error && <Trouble error={write.error} />}
          <div className={classes.actions}>
            <Button size="xs" loading={write.isPending} onClick={() => write.mutate()}>
              Keep the reply
            </Button>
            <Button size="xs" variant="default" onClick={() => setWriting(false)}>
              Cancel
            </Button>
          </div>
        </div>
      )}
    </>
  );
}

type MessageProps = { at: GroupProps["ask"]; group: GroupProps["group"] };

/** Writes to those who made the same mistake, to each in a thread of their own. */
function MessageThem({ at, group }: MessageProps) {
  const [writing, setWriting] = useState(false);
  const [words, setWords] = useState("");
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/classes/{id}/assignments/{assignment}/questions/{question}/message", {
          params: { path: { id: at.id, assignment: at.assignment, question: at.question } },
          body: { students: group.people, words },
        }),
      ),
    onSuccess: () => {
      setWriting(false);
      setWords("");
    },
  });
  const them = group.students.length === 1 ? group.students[0] : `these ${group.students.length} students`;
  if (!writing) {
    return (
      <>
        <Button size="compact-xs" variant="subtle" onClick={() => setWriting(true)}>
          Write to {group.students.length === 1 ? "this student" : "these students"}
        </Button>
        {send.isSuccess && <span role="status"> Sent.</span>}
      </>
    );
  }
  return (
    <div className={classes.form}>
      <Textarea
        label={`Message to ${them}`}
        description="Each gets it in a thread of their own, with this question, and can answer."
        autosize
        minRows={2}
        maxLength={4000}
        autoFocus
        value={words}
        onChange={(e) => setWords(e.currentTarget.value)}
      />
      {send.error && <Trouble error={send.error} />}
      <div className={classes.actions}>
        <Button
          size="xs"
          disabled={words.trim() === ""}
          loading={send.isPending}
          onClick={() => send.mutate()}
        >
          Send
        </Button>
        <Button size="xs" variant="default" onClick={() => setWriting(false)}>
          Cancel
        </Button>
      </div>
    </div>
  );
}
