import { Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { settledWords, threadsQuery } from "./queries";
import classes from "./Threads.module.css";

/** What was asked and answered, the newest first. */
export function ThreadsPage() {
  const threads = useQuery(threadsQuery());
  return (
    <Frame title="Messages">
      {threads.error && <Trouble heading={threads.data ? undefined : "Messages"} error={threads.error} />}
      {threads.isPending && <Skeleton height={280} aria-label="Loading the messages" />}
      {threads.data && (
        <>
          <h1>Messages</h1>
          {threads.data.threads.length === 0 && (
            <p>No messages yet. Use “Ask about this” under any question; it will appear here.</p>
          )}
          <ul className={classes.list}>
            {threads.data.threads.map((t) => (
              <One key={t.id} thread={t} />
            ))}
          </ul>
        </>
      )}
    </Frame>
  );
}

function One({ thread }: { thread: Schemas["ThreadHead"] }) {
  return (
    <li>
      <Link to="/messages/$id" params={{ id: thread.id }}>
        {thread.assignment_title}, question {thread.question + 1}
      </Link>{" "}
      {thread.unread > 0 && <span className={classes.new}>{thread.unread} new</span>}
      <p>{thread.begins || "Taken back"}</p>
      <p className={classes.dim}>
        {[
          thread.student ?? "asked in the class",
          thread.class_title,
          thread.query && "a mark is queried",
          thread.for_class && (thread.hidden ? "hidden from the class" : "the class may read it"),
          thread.settled && settledWords[thread.settled],
          moment(thread.last_at),
        ]
          .filter(Boolean)
          .join(" · ")}
      </p>
    </li>
  );
}
