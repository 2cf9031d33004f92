import { Button, Checkbox, SegmentedControl, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./Cards.module.css";
import { cardsQuery } from "./queries";

type View = Schemas["CardsView"];
type Card = Schemas["CardView"] & { skill: string; page: string };

const waits = (card: Schemas["CardView"]) => card.standing === "not_yet" || card.standing === "back";

/** What waits first, then what is new, then what is known. */
const order = { not_yet: 0, back: 1, new: 2, known: 3 };

/** The words of the trade, gone through as cards. Nothing is scored. */
export function CardsPage() {
  const cards = useQuery(cardsQuery());
  const { pages, meaning } = useSearch({ from: "/signed-in/cards" });
  const [deck, setDeck] = useState<Card[] | null>(null);
  return (
    <Frame trail={[{ label: "Terms" }]}>
      {cards.error && <Trouble heading={cards.data ? undefined : "Terms"} error={cards.error} />}
      {cards.isPending && <Skeleton height={320} aria-label="Loading the terms" />}
      {cards.data && !deck && (
        <Choose view={cards.data} chosen={pages ?? []} meaning={Boolean(meaning)} onBegin={setDeck} />
      )}
      {deck && <Deck deck={deck} meaning={Boolean(meaning)} onEnd={() => setDeck(null)} />}
    </Frame>
  );
}

function counted(page: Schemas["PageCards"]): string {
  const count = (standing: Schemas["CardStandingView"]) =>
    page.cards.filter((c) => c.standing === standing).length;
  const words = [
    [count("not_yet"), "not yet known"],
    [count("back"), "back again"],
    [count("new"), "new"],
    [count("known"), "known"],
  ] as const;
  return words.flatMap(([n, what]) => (n > 0 ? [`${n} ${what}`] : [])).join(", ");
}

type ChooseProps = { view: View; chosen: string[]; meaning: boolean; onBegin: (deck: Card[]) => void };

function Choose({ view, chosen, meaning, onBegin }: ChooseProps) {
  const navigate = useNavigate();
  const go = (search: { pages?: string[] | undefined; meaning?: true | undefined }) =>
    navigate({ to: "/cards", search, replace: true });
  const kept = { ...(meaning ? { meaning: true as const } : {}) };
  const all: Card[] = view.pages.flatMap((p) =>
    p.cards.map((c) => ({ ...c, skill: p.skill, page: p.title })),
  );
  const waiting = all.filter(waits);
  const wanted = all
    .filter((c) => chosen.includes(c.skill))
    .sort((a, b) => order[a.standing] - order[b.standing]);
  return (
    <>
      <h1>Terms</h1>
      <p className={classes.dim}>
        The words of the trade from the reading pages, as cards. Say to yourself what it is, turn the card,
        and be honest. What you did not know comes back after 2, 7 and 21 days. Nothing is scored.
      </p>
      <SegmentedControl
        aria-label="Which side comes first"
        size="sm"
        value={meaning ? "meaning" : "term"}
        onChange={(v) => go({ pages: chosen, ...(v === "meaning" ? { meaning: true } : {}) })}
        data={[
          { value: "term", label: "Term first" },
          { value: "meaning", label: "Meaning first" },
        ]}
      />
      <div className={classes.actions}>
        <Button disabled={wanted.length === 0} onClick={() => onBegin(wanted)}>
          {wanted.length === 0
            ? "Choose pages below"
            : wanted.length === 1
              ? "Go through 1 card"
              : `Go through ${wanted.length} cards`}
        </Button>
        {waiting.length > 0 && (
          <Button variant="default" onClick={() => onBegin(waiting)}>
            {waiting.length === 1 ? "Only the 1 still to learn" : `Only the ${waiting.length} still to learn`}
          </Button>
        )}
      </div>
      <fieldset className={classes.pages}>
        <legend>Pages</legend>
        {view.pages.map((page) => (
          <Checkbox
            key={page.skill}
            checked={chosen.includes(page.skill)}
            onChange={(e) =>
              go({
                ...kept,
                pages: e.currentTarget.checked
                  ? [...chosen, page.skill]
                  : chosen.filter((skill) => skill !== page.skill),
              })
            }
            label={page.title}
            description={counted(page)}
          />
        ))}
      </fieldset>
    </>
  );
}

type DeckProps = { deck: Card[]; meaning: boolean; onEnd: () => void };

function Deck({ deck, meaning, onEnd }: DeckProps) {
  const queryClient = useQueryClient();
  const [at, setAt] = useState(0);
  const [turned, setTurned] = useState(false);
  const [missed, setMissed] = useState<Card[]>([]);
  const face = useRef<HTMLHeadingElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new card and each turn is read out
  useEffect(() => face.current?.focus(), [at, turned]);
  const card = deck[at];
  const answer = useMutation({
    mutationFn: (given: { card: Card; known: boolean }) =>
      ask(
        api.PUT("/api/cards", {
          body: { skill: given.card.skill, term: given.card.term, known: given.known },
        }),
      ),
    onSuccess: (_, given) => {
      if (!given.known) setMissed((m) => [...m, given.card]);
      setTurned(false);
      setAt((n) => n + 1);
      void queryClient.invalidateQueries({ queryKey: cardsQuery().queryKey });
    },
  });
  if (!card) {
    return (
      <section className={classes.sheet}>
        <h1 ref={face} tabIndex={-1}>
          All done
        </h1>
        <p>
          {deck.length - missed.length} of {deck.length} known.
          {missed.length > 0 && " Those not yet known wait for you, and come back once you know them."}
        </p>
        {missed.length > 0 && (
          <dl className={classes.list}>
            {missed.map((c) => (
              <div key={`${c.skill}/${c.term}`}>
                <dt>{c.term}</dt>
                <dd>{c.meaning}</dd>
              </div>
            ))}
          </dl>
        )}
        <Button onClick={onEnd}>Back to the terms</Button>
      </section>
    );
  }
  const front = meaning ? card.meaning : card.term;
  const back = meaning ? card.term : card.meaning;
  return (
    <section className={classes.sheet}>
      <p className={classes.dim}>
        Card {at + 1} of {deck.length} · {card.page}
      </p>
      <div className={classes.card}>
        <h1 ref={face} tabIndex={-1} className={meaning ? classes.meaning : undefined}>
          {front}
        </h1>
        {turned && <p className={classes.back}>{back}</p>}
      </div>
      <div className={classes.actions}>
        {turned ? (
          <>
            <Button loading={answer.isPending} onClick={() => answer.mutate({ card, known: true })}>
              Known
            </Button>
            <Button
              variant="default"
              disabled={answer.isPending}
              onClick={() => answer.mutate({ card, known: false })}
            >
              Not yet
            </Button>
          </>
        ) : (
          <Button onClick={() => setTurned(true)}>Turn the card</Button>
        )}
        <Button variant="subtle" onClick={onEnd}>
          Stop here
        </Button>
      </div>
      {answer.error && <Trouble error={answer.error} />}
    </section>
  );
}
