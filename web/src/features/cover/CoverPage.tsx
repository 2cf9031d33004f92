import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type ReactNode, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Asking } from "../../shared/Asking";
import { GoalLines, goalWords } from "../../shared/GoalLines";
import { kindWords, levelWords, stateWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { away, length, moment, percent, points } from "../../shared/when";
import { boardQuery } from "../board/queries";
import { InPortal } from "../portal/InPortal";
import { ReadingOffer } from "../reading/ReadingOffer";
import classes from "./CoverPage.module.css";
import { coverQuery } from "./queries";

type Cover = Schemas["CoverView"];

export function CoverPage() {
  const { id } = useParams({ from: "/signed-in/work/$id" });
  const cover = useQuery(coverQuery(id));
  return (
    <Frame
      trail={[
        ...(cover.data ? [{ label: cover.data.class_title, to: `/class/${cover.data.class_id}` }] : []),
        { label: cover.data?.title ?? "Cover sheet" },
      ]}
    >
      {cover.error && <Trouble heading={cover.data ? undefined : "This assignment"} error={cover.error} />}
      {cover.isPending && <Skeleton height={420} aria-label="Loading the cover sheet" />}
      {cover.data && <Sheet cover={cover.data} />}
    </Frame>
  );
}

function Sheet({ cover }: { cover: Cover }) {
  useSeen(cover);
  return (
    <article className={classes.sheet}>
      <p className={classes.dim}>
        {cover.class_title} · {kindWords[cover.kind]}
      </p>
      <h1>{cover.title}</h1>
      <p className={classes.state}>
        {new Date(cover.opens) > new Date(cover.now) ? "Not open yet" : stateWords[cover.state]}
        {cover.score_so_far && <> · score so far {percent(cover.score_so_far.percent)}</>}
        {cover.recorded && <> · recorded score {percent(cover.recorded.percent)}</>}
      </p>
      <InPortal assignment={cover.id} />
      {cover.note && <blockquote className={classes.note}>{cover.note}</blockquote>}
      <OpenAction cover={cover} />
      <Offers cover={cover} />
      {cover.goal && <GoalLines goal={cover.goal} />}
      <dl className={classes.facts}>
        {facts(cover).map(([name, fact]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{fact}</dd>
          </div>
        ))}
      </dl>
      {cover.hand_ins.length > 0 && (
        <section className={classes.handIns}>
          <h2>Hand-ins</h2>
          <ul>
            {cover.hand_ins.map((h) => (
              <li key={h.number}>
                <Link to="/work/$id/receipt/$number" params={{ id: cover.id, number: String(h.number) }}>
                  Receipt {h.number}
                </Link>
                : {moment(h.at)}
                {h.score ? `, ${percent(h.score.percent)}` : ""}
                {h.late ? ", late" : ""}
                {h.by_time ? ", when time ran out" : ""}
              </li>
            ))}
          </ul>
        </section>
      )}
    </article>
  );
}

/** What may be done first: offered, never forced. */
function Offers({ cover }: { cover: Cover }) {
  if (!cover.is_open) return null;
  const reads = cover.goal?.lines[0]?.line === "page";
  const fresh = cover.skills.filter((s) => s.level === "new" && s.page && !s.page.read);
  return (
    <>
      {cover.typing_offer && (
        <p className={classes.offer}>
          Not typed maths here before?{" "}
          <Link to="/typing" search={{}}>
            Ten short tasks
          </Link>{" "}
          show how fractions, powers, roots and units are entered. Nothing in them is scored.
        </p>
      )}
      {!reads && fresh.length > 0 && <ReadingOffer skills={fresh} />}
    </>
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

const many = (n: number | null | undefined, what: string) => (n == null ? "unlimited" : `${n} ${what}`);

const workingWords: Record<Cover["working"], string> = {
  when_tries_run_out: "when no tries are left on a set",
  after_full_credit: "once a question is all right",
  on_request: "whenever you ask; it ends the set",
  after_due: "after the due time",
  never: "not shown",
};

function verdictWords(c: Cover): string {
  if (c.checked_while_working) return "As soon as you check an answer";
  return c.results === "after_due"
    ? `Everything is checked when you hand in; results show ${moment(c.due)}`
    : "Everything is checked when you hand in; results show then";
}

function helpWords(c: Cover): string {
  const help = [
    c.hints && (c.hint_cost > 0 ? `hints (each costs ${c.hint_cost} % of what you earn after it)` : "hints"),
    c.worked_example && "worked examples",
    c.tools.calculator && "calculator",
    c.tools.formula_sheet && "formula sheet",
    c.tools.typing_guide && "typing guide",
  ].filter(Boolean);
  const words = help.length === 0 ? "no other help" : help.join(", ");
  const first = words.charAt(0).toUpperCase() + words.slice(1);
  return `${first}. The working: ${workingWords[c.working]}.`;
}

function orderWords(c: Cover): string {
  if (!c.linear) return "Any order";
  const back = c.going_back ? "you can go back" : "there is no going back";
  return `One after the other; ${back}${c.allow_skipping ? "" : "; none may be left out"}`;
}

function timeWords(c: Cover): string {
  if (c.time_limit_seconds == null) return "No limit. Leave and come back as often as you like.";
  const extra = c.time_percent === 100 ? "" : ` (${c.time_percent} % of the usual time)`;
  return `${length(c.time_limit_seconds)} from the moment you open it${extra}; the clock goes on if you leave`;
}

function triesWords(c: Cover): string {
  if (!c.checked_while_working) {
    const hand = c.hand_ins_allowed === 1 ? "one hand-in" : many(c.hand_ins_allowed, "hand-ins");
    return `None while working; ${hand}`;
  }
  const own = c.own_tries.map((o) => `question ${o.question}: ${o.tries}`).join(", ");
  const sets =
    c.max_sets === 1
      ? "no fresh numbers"
      : `${c.max_sets == null ? "any number of" : c.max_sets} sets of numbers for each question`;
  return `${many(c.max_tries, "on each set")}${own ? ` (${own})` : ""}; ${sets}. What can't be read costs none.`;
}

/** What the work consists of: questions, or a goal. */
function work(c: Cover): [string, ReactNode][] {
  if (!c.goal) {
    return [
      ["Questions", `${c.questions}, worth ${c.points} points in all`],
      ["Order", orderWords(c)],
      ["Tries", triesWords(c)],
      ["Verdicts", verdictWords(c)],
      ["Help", helpWords(c)],
    ];
  }
  return [
    ["Goal", goalWords(c.goal)],
    ["Score", "Progress to the goal, 0 to 100 %; it can be handed in at any moment"],
    ["How", c.goal.lines[0] ? howWords[c.goal.lines[0].line] : ""],
  ];
}

const fresh =
  "Fresh questions one after another, the weakest skill first; each is checked once, and a wrong answer is followed by a similar question";

/** How a goal is worked on, by what it asks for. */
const howWords: Record<Schemas["GoalLineView"]["line"], string> = {
  skill: fresh,
  right: fresh,
  page: "In small steps or whole, read aloud if you like; checks inside are not scored",
  watch:
    "It halts at each stop until that is answered; going back and the speed are up to you, and what is ahead opens as you watch",
  start: "Up to 30 questions, fewer when enough is known; no hints and no verdicts while it runs",
};

function facts(c: Cover): [string, ReactNode][] {
  const moved = c.dates_moved ? ", moved for you" : "";
  return [
    ["Opens", `${moment(c.opens)} (${away(c.now, c.opens)})`],
    ["Due", `${moment(c.due)} (${away(c.now, c.due)}${moved})`],
    ["Late", lateWords(c.late, c.closes)],
    ["Time", timeWords(c)],
    ...work(c),
    ["Counts", c.counts ? "Towards your grade" : "For practice only"],
    [
      "Hand-ins",
      `${c.hand_ins.length} used, ${c.hand_ins_allowed == null ? "as many as you like" : `${c.hand_ins_allowed} allowed`}; the ${c.best_counts ? "best" : "last"} counts`,
    ],
    [
      "Hand-in needs",
      c.needs_every_question && !c.goal
        ? "Every question attempted"
        : c.goal
          ? "Nothing; you can hand in what you have"
          : "Nothing; unanswered questions are listed first",
    ],
    ...rowOf("Skills", c.skills.map(skillWords).join(", ")),
    ...rowOf("Pass mark", c.pass_mark == null ? "" : `${c.pass_mark} %`),
  ];
}

/** Nothing where there is nothing to say. */
const rowOf = (name: string, words: string): [string, ReactNode][] => (words ? [[name, words]] : []);

const skillWords = (s: Schemas["SkillBrief"]) =>
  `${s.title} (${levelWords[s.level]}${s.level === "new" ? "" : `, ${s.score}`})`;

/** Tells the server that the cover sheet, its note and what happened were looked at. */
function useSeen(cover: Cover) {
  const queryClient = useQueryClient();
  const { id, last_event } = cover;
  useEffect(() => {
    const body = { event: last_event, note: true, result: false };
    void api
      .POST("/api/assignments/{id}/seen", { params: { path: { id } }, body })
      .then(() => queryClient.invalidateQueries({ queryKey: ["week"] }))
      .catch(() => undefined);
  }, [id, last_event, queryClient]);
}

function OpenAction({ cover }: { cover: Cover }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const open = useMutation({
    mutationFn: async () => {
      if (cover.goal) return null;
      await ask(api.POST("/api/assignments/{id}/open", { params: { path: { id: cover.id } } }));
      const board = await queryClient.fetchQuery({ ...boardQuery(cover.id), staleTime: 0 });
      if (board.linear && !board.going_back) return board.reached + 1;
      const first = board.questions.find((q) => !["right", "no_tries_left", "locked"].includes(q.stone));
      return (first?.question ?? 0) + 1;
    },
    onSuccess: (number) =>
      number === null
        ? navigate({ to: "/work/$id/goal", params: { id: cover.id } })
        : navigate({ to: "/work/$id/question/$number", params: { id: cover.id, number: String(number) } }),
  });
  const early = new Date(cover.opens) > new Date(cover.now);
  if (early) {
    return (
      <p className={classes.waiting}>
        It opens {moment(cover.opens)} ({away(cover.now, cover.opens)}).
      </p>
    );
  }
  if (cover.first) {
    return (
      <p className={classes.waiting}>
        Your teacher asks for something else first: <strong>{cover.first}</strong>. It stands on the page of{" "}
        <Link to="/class/$id" params={{ id: cover.class_id }}>
          {cover.class_title}
        </Link>
        .
      </p>
    );
  }
  const timed = cover.time_limit_seconds != null && cover.state === "not_opened";
  return (
    <div className={classes.action}>
      {open.error && <Trouble error={open.error} />}
      {!cover.is_open && cover.closed_because && <p className={classes.waiting}>{cover.closed_because}</p>}
      {cover.results_at && !cover.recorded && (
        <p className={classes.waiting}>The results show {moment(cover.results_at)}.</p>
      )}
      {cover.time_limit_seconds != null && (
        <Asking
          opened={timed && asking}
          title="The clock starts now"
          confirm="Open and start the clock"
          leave="Not now"
          pending={open.isPending}
          onConfirm={() => open.mutate()}
          onLeave={() => setAsking(false)}
        >
          <p>
            Your {length(cover.time_limit_seconds)} begin now and run on even if you leave. When time ends,
            whatever is complete by then is handed in for you.
          </p>
        </Asking>
      )}
      {cover.is_open && (
        <Button size="md" loading={open.isPending} onClick={() => (timed ? setAsking(true) : open.mutate())}>
          {cover.state === "not_opened" ? "Open" : "Carry on"}
        </Button>
      )}
      {cover.recorded && (
        <Button
          component={Link}
          to={`/work/${cover.id}/result`}
          size="md"
          variant={cover.is_open ? "default" : "filled"}
        >
          See the result
        </Button>
      )}
      {cover.can_practise && (
        <Button component={Link} to={`/work/${cover.id}/practice/1`} size="md" variant="default">
          Practise, nothing recorded
        </Button>
      )}
      {cover.can_print && (
        <Button component={Link} to={`/work/${cover.id}/all`} size="md" variant="default">
          All on one page
        </Button>
      )}
      {cover.can_print && (
        <Button component={Link} to={`/work/${cover.id}/paper`} size="md" variant="default">
          Paper copy
        </Button>
      )}
      {cover.goal && cover.is_open && cover.state !== "not_opened" && (
        <Button component={Link} to={`/work/${cover.id}/hand-in`} size="md" variant="default">
          Hand in
        </Button>
      )}
      {!cover.goal && cover.state !== "not_opened" && cover.is_open && cover.score_so_far && (
        <span className={classes.dim}>
          So far {points(cover.score_so_far.points)} of {cover.points} points
        </span>
      )}
    </div>
  );
}
