import { Button, SegmentedControl, Skeleton, Textarea } from "@mantine/core";
import {
  type InfiniteData,
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQueryClient,
} from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Given } from "../../shared/Given";
import { Prose } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import { away, moment } from "../../shared/when";
import { AllMarks } from "../marks/AllMarks";
import { slipsQuery, type Which } from "./queries";
import classes from "./SlipBookPage.module.css";

type Slip = Schemas["SlipView"];

const nameOf = (slip: Slip) => `${slip.source}.${slip.event}`;

const filters: { value: Which; label: string }[] = [
  { value: "to_mend", label: "To mend" },
  { value: "mended", label: "Mended" },
  { value: "all", label: "All" },
];

/** What went wrong, one's own words on it, and fresh numbers to mend it. */
export function SlipBookPage() {
  const { slip: chosen } = useSearch({ from: "/signed-in/slips" });
  // The slip that one came by is asked for once; choosing others needs no asking.
  const [linked] = useState(chosen);
  const [which, setWhich] = useState<Which>("to_mend");
  const slips = useInfiniteQuery({ ...slipsQuery(which, linked), placeholderData: keepPreviousData });
  const first = slips.data?.pages[0];
  return (
    <Frame title="Slip book">
      <h1>Slip book</h1>
      {slips.error && <Trouble error={slips.error} />}
      {slips.isPending && <Skeleton height={420} mt={20} aria-label="Loading your slip book" />}
      {first?.slips_in_all === 0 && (
        <p>
          Nothing here yet. Every check that was not right will stand here with what you typed, so that you
          can come back to it. None of it touches a score.
        </p>
      )}
      {first && first.slips_in_all > 0 && (
        <>
          <Tools first={first} which={which} onWhich={setWhich} />
          <Book
            pages={slips.data?.pages ?? []}
            chosen={chosen}
            more={
              slips.hasNextPage
                ? { loading: slips.isFetchingNextPage, load: () => slips.fetchNextPage() }
                : undefined
            }
          />
        </>
      )}
      <AllMarks />
    </Frame>
  );
}

type ToolsProps = { first: Schemas["SlipsView"]; which: Which; onWhich: (which: Which) => void };

function Tools({ first, which, onWhich }: ToolsProps) {
  const words = [
    first.open === 1 ? "1 slip is open" : `${first.open} slips are open`,
    first.back === 1 ? "1 has come back" : `${first.back} have come back`,
  ];
  return (
    <>
      <p className={classes.dim}>{words.join(", ")}. None of it touches a score.</p>
      <div className={classes.tools}>
        <SegmentedControl
          aria-label="Which slips"
          size="sm"
          value={which}
          onChange={(value) => onWhich(value as Which)}
          data={filters}
        />
        <Button size="sm" variant="default" component={Link} to="/slips/review">
          Review for a test
        </Button>
        <Button size="sm" variant="default" onClick={() => window.print()}>
          Print
        </Button>
        <a href="/api/slips/export/csv" download>
          Download CSV
        </a>
        <a href="/api/slips/export/md" download>
          As Markdown
        </a>
      </div>
    </>
  );
}

type BookProps = {
  pages: Schemas["SlipsView"][];
  chosen: string | undefined;
  more: { loading: boolean; load: () => void } | undefined;
};

function Book({ pages, chosen, more }: BookProps) {
  const [first] = pages;
  if (!first) return null;
  const list = pages.flatMap((page) => page.slips);
  const linked = first.chosen && nameOf(first.chosen) === chosen ? first.chosen : undefined;
  const slip = list.find((s) => nameOf(s) === chosen) ?? linked ?? list[0];
  return (
    <div className={classes.spread}>
      <nav aria-label="Slips">
        {list.length === 0 && <p>Nothing here.</p>}
        <ol className={classes.list}>
          {list.map((s) => (
            <li key={nameOf(s)}>
              <Link to="/slips" search={{ slip: nameOf(s) }} aria-current={s === slip ? "true" : undefined}>
                {s.title}
              </Link>
              <span className={classes.dim}>
                {away(first.now, s.at)} · {standing(s, first.now)}
              </span>
            </li>
          ))}
        </ol>
        {more && (
          <Button size="sm" variant="default" mt={10} loading={more.loading} onClick={more.load}>
            Show earlier slips
          </Button>
        )}
        {list.length > 0 && first.of_these > list.length && (
          <p className={classes.dim}>
            {list.length} of {first.of_these} shown
          </p>
        )}
      </nav>
      {slip && <Spread key={nameOf(slip)} slip={slip} now={first.now} />}
    </div>
  );
}

function standing(slip: Slip, now: string): string {
  if (!slip.mended) return "open";
  if (slip.due) return slip.comes_back ? `came back ${away(now, slip.comes_back)}` : "came back";
  return slip.comes_back ? `mended, comes back ${away(now, slip.comes_back)}` : "mended";
}

/** A slip: what was asked and typed on the left, what to make of it on the right. */
function Spread({ slip, now }: { slip: Slip; now: string }) {
  const navigate = useNavigate();
  const again = useMutation({
    mutationFn: () => ask(api.POST("/api/slips/try", { body: { question: slip.question } })),
    onSuccess: ({ id }) => navigate({ to: "/practise/$id", params: { id } }),
  });
  const several = slip.given.length > 1;
  return (
    <article className={classes.slip}>
      <div>
        <h2>{slip.title}</h2>
        <p className={classes.dim}>
          {slip.where_from}
          {slip.class && ` · ${slip.class}`} · {moment(slip.at)} · {standing(slip, now)}
        </p>
        <h3>What was asked</h3>
        <Prose blocks={slip.text} />
        <h3>What I typed</h3>
        {slip.given.map((given) => (
          <Given key={given.id} label={several ? `(${given.id})` : undefined} given={given} />
        ))}
      </div>
      <div>
        <Note slip={slip} />
        {again.error && <Trouble error={again.error} />}
        {slip.can_try ? (
          <Button mt={14} loading={again.isPending} onClick={() => again.mutate()}>
            Try it on fresh numbers
          </Button>
        ) : (
          <p className={classes.dim}>This question has no other numbers.</p>
        )}
        <p className={classes.dim}>
          Right on fresh numbers mends it; it comes back after 2, 7 and 21 days. No score changes.
        </p>
      </div>
    </article>
  );
}

function Note({ slip }: { slip: Slip }) {
  const queryClient = useQueryClient();
  const [note, setNote] = useState(slip.note);
  const [kept, setKept] = useState(true);
  const { source, event } = slip;
  const save = useMutation({
    mutationFn: (text: string) => ask(api.PUT("/api/slips/note", { body: { source, event, note: text } })),
    retry: 20,
    retryDelay: 2_000,
    onSuccess: (_, text) => {
      setKept(true);
      const noted = (s: Slip) => (nameOf(s) === `${source}.${event}` ? { ...s, note: text } : s);
      queryClient.setQueriesData<InfiniteData<Schemas["SlipsView"]>>(
        { queryKey: ["slips"] },
        (old) =>
          old && {
            ...old,
            pages: old.pages.map((page) => ({
              ...page,
              slips: page.slips.map(noted),
              chosen: page.chosen && noted(page.chosen),
            })),
          },
      );
    },
  });
  const { mutate } = save;
  useEffect(() => {
    if (kept) return;
    const timer = window.setTimeout(() => mutate(note), 500);
    return () => window.clearTimeout(timer);
  }, [note, kept, mutate]);
  return (
    <>
      <Textarea
        label="What went wrong"
        description="A line of your own, for the next time"
        autosize
        minRows={3}
        maxLength={2_000}
        value={note}
        onChange={(e) => {
          setNote(e.currentTarget.value);
          setKept(false);
        }}
        onBlur={() => !kept && mutate(note)}
        data-testid="slip-note"
      />
      <p className={classes.dim} aria-live="polite" data-testid="note-kept">
        {save.error ? save.error.message : kept ? "Kept." : "Keeping…"}
      </p>
    </>
  );
}
