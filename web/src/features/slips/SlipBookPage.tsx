import { Button, SegmentedControl, Skeleton, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Given } from "../../shared/Given";
import { Prose } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import { away, moment } from "../../shared/when";
import { slipsQuery } from "./queries";
import classes from "./SlipBookPage.module.css";

type Slip = Schemas["SlipView"];
type Shown = "waiting" | "mended" | "all";

const nameOf = (slip: Slip) => `${slip.source}.${slip.event}`;

/** What went wrong, one's own words on it, and fresh numbers to mend it. */
export function SlipBookPage() {
  const slips = useQuery(slipsQuery());
  return (
    <Frame title="Slip book">
      <h1>Slip book</h1>
      {slips.error && <Trouble error={slips.error} />}
      {slips.isPending && <Skeleton height={420} mt={20} aria-label="Loading your slip book" />}
      {slips.data?.slips.length === 0 && (
        <p>
          Nothing here yet. Every check that was not right will stand here with what you typed, so that you
          can come back to it. None of it touches a score.
        </p>
      )}
      {slips.data && slips.data.slips.length > 0 && <Book view={slips.data} />}
    </Frame>
  );
}

function Book({ view }: { view: Schemas["SlipsView"] }) {
  const { slip: chosen } = useSearch({ from: "/signed-in/slips" });
  const [shown, setShown] = useState<Shown>("waiting");
  const list = view.slips.filter((s) => shown === "all" || (shown === "waiting" ? s.due : s.mended));
  const slip = view.slips.find((s) => nameOf(s) === chosen) ?? list[0];
  const words = [
    view.open === 1 ? "1 slip is open" : `${view.open} slips are open`,
    view.back === 1 ? "1 has come back" : `${view.back} have come back`,
  ];
  return (
    <>
      <p className={classes.dim}>{words.join(", ")}. None of it touches a score.</p>
      <div className={classes.tools}>
        <SegmentedControl
          aria-label="Which slips"
          size="sm"
          value={shown}
          onChange={(value) => setShown(value as Shown)}
          data={[
            { value: "waiting", label: "To mend" },
            { value: "mended", label: "Mended" },
            { value: "all", label: "All" },
          ]}
        />
        <Button size="sm" variant="default" component={Link} to="/slips/review">
          Review for a test
        </Button>
        <Button size="sm" variant="default" onClick={() => window.print()}>
          Print
        </Button>
        <a href="/api/slips/export/csv" download>
          As CSV
        </a>
        <a href="/api/slips/export/md" download>
          As Markdown
        </a>
      </div>
      <div className={classes.spread}>
        <nav aria-label="Slips">
          {list.length === 0 && <p>Nothing of this kind. Well kept.</p>}
          <ol className={classes.list}>
            {list.map((s) => (
              <li key={nameOf(s)}>
                <Link to="/slips" search={{ slip: nameOf(s) }} aria-current={s === slip ? "true" : undefined}>
                  {s.title}
                </Link>
                <span className={classes.dim}>
                  {away(view.now, s.at)} · {standing(s, view.now)}
                </span>
              </li>
            ))}
          </ol>
        </nav>
        {slip && <Spread key={nameOf(slip)} slip={slip} now={view.now} />}
      </div>
    </>
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
      queryClient.setQueryData(
        slipsQuery().queryKey,
        (old) =>
          old && {
            ...old,
            slips: old.slips.map((s) => (nameOf(s) === `${source}.${event}` ? { ...s, note: text } : s)),
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
