import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { kindWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { away, moment, percent, points } from "../../shared/when";
import { boardQuery } from "../board/queries";
import classes from "./CoverPage.module.css";
import { coverQuery } from "./queries";

type Cover = Schemas["CoverView"];

export function CoverPage() {
  const { id } = useParams({ from: "/signed-in/work/$id" });
  const cover = useQuery(coverQuery(id));
  return (
    <Frame trail={[{ label: cover.data?.title ?? "Cover sheet" }]}>
      {cover.error && <Trouble error={cover.error} />}
      {cover.isPending && <Skeleton height={420} aria-label="Loading the cover sheet" />}
      {cover.data && <Sheet cover={cover.data} />}
    </Frame>
  );
}

function Sheet({ cover }: { cover: Cover }) {
  return (
    <article className={classes.sheet}>
      <p className={classes.dim}>
        {cover.class_title} · {kindWords[cover.kind]}
      </p>
      <h1>{cover.title}</h1>
      <p className={classes.state}>
        {stateWords[cover.state]}
        {cover.score_so_far && <> · score so far {percent(cover.score_so_far.percent)}</>}
        {cover.recorded && <> · recorded score {percent(cover.recorded.percent)}</>}
      </p>
      {cover.note && <blockquote className={classes.note}>{cover.note}</blockquote>}
      <dl className={classes.facts}>
        {facts(cover).map(([name, fact]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{fact}</dd>
          </div>
        ))}
      </dl>
      <OpenAction cover={cover} />
      {cover.hand_ins.length > 0 && (
        <section className={classes.handIns}>
          <h2>Hand-ins</h2>
          <ul>
            {cover.hand_ins.map((h) => (
              <li key={h.number}>
                <Link to="/work/$id/receipt/$number" params={{ id: cover.id, number: String(h.number) }}>
                  Receipt {h.number}
                </Link>
                : {moment(h.at)}, {percent(h.score.percent)}
                {h.late ? ", late" : ""}
              </li>
            ))}
          </ul>
        </section>
      )}
    </article>
  );
}

function lateWords(late: Cover["late"], closes: string): string {
  switch (late.rule) {
    case "no_late_time":
      return "Nothing can be added after it is due.";
    case "flagged":
      return `Accepted until ${moment(closes)}, marked as late.`;
    case "percent_off":
      return `Accepted until ${moment(closes)}, with ${late.percent} % taken off.`;
    default:
      return "Late work is not accepted.";
  }
}

function facts(c: Cover): [string, ReactNode][] {
  const many = (n: number | null | undefined, what: string) => (n == null ? "unlimited" : `${n} ${what}`);
  return [
    ["Opens", `${moment(c.opens)} (${away(c.now, c.opens)})`],
    ["Due", `${moment(c.due)} (${away(c.now, c.due)})`],
    ["Late", lateWords(c.late, c.closes)],
    ["Time", "No limit. Leave and come back as often as you like."],
    ["Questions", `${c.questions}, worth ${c.points} points in all`],
    ["Tries", `${many(c.max_tries, "on each question")}. What can't be read costs none.`],
    ["Verdicts", c.checked_while_working ? "As soon as you check an answer" : "When you hand in"],
    ["Counts", c.counts ? "Towards your grade" : "For practice only"],
    [
      "Hand-ins",
      `${c.hand_ins.length} used, ${c.hand_ins_allowed == null ? "as many as you like" : `${c.hand_ins_allowed} allowed`}; the ${c.best_counts ? "best" : "last"} counts`,
    ],
    [
      "Hand-in needs",
      c.needs_every_question ? "Every question attempted" : "Nothing; what is unanswered is listed first",
    ],
    ["Skills", c.skills.join(", ") || "None named"],
    ...(c.pass_mark == null ? [] : ([["Pass mark", `${c.pass_mark} %`]] as [string, ReactNode][])),
  ];
}

function OpenAction({ cover }: { cover: Cover }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const open = useMutation({
    mutationFn: async () => {
      if (cover.is_open) {
        await ask(api.POST("/api/assignments/{id}/open", { params: { path: { id: cover.id } } }));
      }
      const board = await queryClient.fetchQuery({ ...boardQuery(cover.id), staleTime: 0 });
      const first = board.questions.find((q) => q.stone !== "right" && q.stone !== "no_tries_left");
      return (first?.question ?? 0) + 1;
    },
    onSuccess: (number) =>
      navigate({ to: "/work/$id/question/$number", params: { id: cover.id, number: String(number) } }),
  });
  if (!cover.is_open && cover.state !== "closed") {
    return cover.state === "not_opened" ? (
      <p className={classes.waiting}>
        It opens {moment(cover.opens)} ({away(cover.now, cover.opens)}).
      </p>
    ) : (
      <p className={classes.waiting}>It closed {moment(cover.closes)}. Nothing can be added any more.</p>
    );
  }
  const word = cover.state === "not_opened" ? "Open" : cover.is_open ? "Carry on" : "Look at it";
  return (
    <div className={classes.action}>
      {open.error && <Trouble error={open.error} />}
      <Button size="md" loading={open.isPending} onClick={() => open.mutate()}>
        {word}
      </Button>
      {cover.state !== "not_opened" && cover.is_open && (
        <span className={classes.dim}>
          So far {points(cover.score_so_far?.points ?? 0)} of {cover.points} points
        </span>
      )}
    </div>
  );
}
