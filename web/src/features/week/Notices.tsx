import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { api, ask, type Schemas } from "../../api/client";
import { away, moment } from "../../shared/when";
import { weekQuery } from "./queries";
import classes from "./WeekPage.module.css";

type Notice = Schemas["NoticeView"];

/** What happened to one's work and was not looked at yet. */
export function Notices({ now, notices }: { now: string; notices: Notice[] }) {
  if (notices.length === 0) return null;
  return (
    <aside className={classes.side} aria-label="New for you" data-testid="notices">
      <h2>New for you</h2>
      <ul className={classes.notices}>
        {notices.map((notice) => (
          <li key={`${notice.assignment}/${notice.event}/${notice.words}`}>
            <OneNotice now={now} notice={notice} />
          </li>
        ))}
      </ul>
    </aside>
  );
}

function OneNotice({ now, notice }: { now: string; notice: Notice }) {
  const queryClient = useQueryClient();
  const seen = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/assignments/{id}/seen", {
          params: { path: { id: notice.assignment } },
          body: { event: notice.event, note: notice.note, result: notice.result },
        }),
      ),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: weekQuery().queryKey }),
  });
  return (
    <>
      <p>
        <Link
          to={notice.on_result_page ? "/work/$id/result" : "/work/$id"}
          params={{ id: notice.assignment }}
        >
          {notice.title}
        </Link>{" "}
        <span className={classes.dim}>{away(now, notice.at)}</span>
      </p>
      <p>
        {notice.words}
        {notice.instant && ` ${moment(notice.instant)}.`}
      </p>
      <Button
        size="compact-sm"
        variant="subtle"
        color="gray"
        className={classes.seen}
        loading={seen.isPending}
        onClick={() => seen.mutate()}
      >
        I have seen this
      </Button>
    </>
  );
}
