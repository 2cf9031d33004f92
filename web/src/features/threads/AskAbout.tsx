import { Button, Checkbox, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./Threads.module.css";

type Props = {
  assignment: string;
  question: number;
  /** Something was marked and is not right: the mark can be queried. */
  doubtful: boolean;
  /** Verdicts are out, so that the class may read what is asked. */
  released: boolean;
};

/** From a question to the teacher: asking about it, or doubting its mark. */
export function AskAbout({ assignment, question, doubtful, released }: Props) {
  const [writing, setWriting] = useState<"ask" | "query" | null>(null);
  const [sent, setSent] = useState<string | null>(null);
  if (sent) {
    return (
      <p className={classes.quiet} role="status">
        Sent.{" "}
        <Link to="/messages/$id" params={{ id: sent }}>
          Read it under Messages
        </Link>
        ; your teacher’s answer comes there, too.
      </p>
    );
  }
  if (!writing) {
    return (
      <p className={classes.quiet}>
        <Button size="compact-sm" variant="subtle" onClick={() => setWriting("ask")}>
          Ask about this
        </Button>
        {doubtful && (
          <Button size="compact-sm" variant="subtle" onClick={() => setWriting("query")}>
            Query this mark
          </Button>
        )}
      </p>
    );
  }
  return (
    <AskForm
      assignment={assignment}
      question={question}
      query={writing === "query"}
      released={released}
      onLeave={() => setWriting(null)}
      onSent={setSent}
    />
  );
}

type FormProps = {
  assignment: string;
  question: number;
  query: boolean;
  released: boolean;
  onLeave: () => void;
  onSent: (id: string) => void;
};

function AskForm({ assignment, question, query, released, onLeave, onSent }: FormProps) {
  const queryClient = useQueryClient();
  const [body, setBody] = useState("");
  const [forClass, setForClass] = useState(false);
  const send = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/assignments/{id}/threads", {
          params: { path: { id: assignment } },
          body: { question, query, for_class: forClass, body },
        }),
      ),
    onSuccess: async ({ id }) => {
      await queryClient.invalidateQueries({ queryKey: ["threads"] });
      onSent(id);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!send.isPending) send.mutate();
  };
  return (
    <form
      className={classes.form}
      onSubmit={submit}
      aria-label={query ? "Query this mark" : "Ask about this"}
    >
      <Textarea
        label={query ? "Why you are sure, in a line or two" : "Your question"}
        description={
          query
            ? "Your teacher sees your entry, the key, and how it was decided."
            : "Your teacher gets the question as you have it, with your last entry and its verdict."
        }
        autosize
        minRows={2}
        maxLength={4000}
        autoFocus
        required
        value={body}
        onChange={(e) => setBody(e.currentTarget.value)}
      />
      {!query && released && (
        <Checkbox
          label="The class may read it, too, without your numbers, entries and verdicts"
          checked={forClass}
          onChange={(e) => setForClass(e.currentTarget.checked)}
        />
      )}
      {send.error && <Trouble error={send.error} />}
      <div className={classes.actions}>
        <Button type="submit" size="sm" loading={send.isPending}>
          Send
        </Button>
        <Button size="sm" variant="default" onClick={onLeave}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
