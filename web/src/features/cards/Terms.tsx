import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import week from "../week/WeekPage.module.css";
import classes from "./Cards.module.css";
import { cardsQuery } from "./queries";

/** The terms of a page with their meaning, and the way to go through them. */
export function Terms({ skill, terms }: { skill: string; terms: Schemas["TermView"][] }) {
  if (terms.length === 0) return null;
  return (
    <section aria-label="Terms">
      <h2>Terms</h2>
      <dl className={classes.list}>
        {terms.map((t) => (
          <div key={t.term}>
            <dt>{t.term}</dt>
            <dd>{t.meaning}</dd>
          </div>
        ))}
      </dl>
      <p>
        <Link to="/cards" search={{ pages: [skill] }}>
          Practise them as cards
        </Link>
      </p>
    </section>
  );
}

/** On Week: terms that wait to be known. */
export function TermsWaiting() {
  const { data } = useQuery(cardsQuery());
  const waiting = (data?.pages ?? []).flatMap((p) =>
    p.cards.filter((c) => c.standing === "not_yet" || c.standing === "back"),
  );
  if (waiting.length === 0) return null;
  return (
    <section className={week.side} aria-label="Terms">
      <h2>Terms</h2>
      <p>
        <Link to="/cards" search={{}}>
          {waiting.length === 1 ? "1 term still to learn" : `${waiting.length} terms still to learn`}
        </Link>
      </p>
    </section>
  );
}
