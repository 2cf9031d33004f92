import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { away } from "../../shared/when";
import classes from "./WeekPage.module.css";

/** How many are listed before the rest is only counted. */
const most = 4;

/** Slips that are due to be tried again. */
export function Slips({ now, slips }: { now: string; slips: Schemas["WeekSlips"] }) {
  if (slips.open === 0 && slips.back.length === 0) return null;
  const open = slips.open === 1 ? "1 slip is open" : `${slips.open} slips are open`;
  return (
    <section className={classes.side} aria-label="Slips">
      <h2>Slips</h2>
      {slips.back.length > 0 && (
        <>
          <p>Come back to be tried again:</p>
          <ul className={classes.waiting}>
            {slips.back.slice(0, most).map((s) => (
              <li key={`${s.source}.${s.event}`}>
                <Link to="/slips" search={{ slip: `${s.source}.${s.event}` }}>
                  {s.title}
                </Link>{" "}
                <span className={classes.dim}>
                  {s.slips > 1 && `${s.slips} slips, `}
                  {away(now, s.since)}
                </span>
              </li>
            ))}
          </ul>
          {slips.back.length > most && <p className={classes.dim}>and {slips.back.length - most} more</p>}
        </>
      )}
      {slips.open > 0 && (
        <p>
          <Link to="/slips" search={{}}>
            {open}
          </Link>
        </p>
      )}
    </section>
  );
}

/** Skills that were solid and are fading. */
export function Fading({ now, fading }: { now: string; fading: Schemas["FadingView"][] }) {
  if (fading.length === 0) return null;
  return (
    <section className={classes.side} aria-label="Fading skills">
      <h2>Fading</h2>
      <ul className={classes.waiting}>
        {fading.slice(0, most).map(({ skill, since }) => (
          <li key={skill.id}>
            <Link to="/skills" search={{ skill: skill.id }}>
              {skill.title}
            </Link>{" "}
            <span className={classes.dim}>
              now {skill.score}, last done {away(now, since)}
            </span>
          </li>
        ))}
      </ul>
      {fading.length > most && <p className={classes.dim}>and {fading.length - most} more</p>}
    </section>
  );
}
