import { Button, Skeleton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./Desk.module.css";
import { classesQuery } from "./queries";
import { dayWords } from "./words";

/** A teacher's classes, and who in them needs the teacher. */
export function ClassesPage() {
  const all = useQuery(classesQuery());
  const list = all.data?.classes ?? [];
  return (
    <Frame title="Classes">
      {all.error && <Trouble heading={all.data ? undefined : "Classes"} error={all.error} />}
      {all.isPending && <Skeleton height={280} aria-label="Loading your classes" />}
      {all.data && (
        <>
          <div className={classes.head}>
            <h1>Classes</h1>
            <Button component={Link} to="/classes/new">
              New class
            </Button>
          </div>
          {list.length === 0 && (
            <p>
              You have no class yet. Make one, add your students by a list or a code, then set them work: it
              takes three steps, and nothing is seen by anybody before you give it out.
            </p>
          )}
          {list.map((one) => (
            <Slab key={one.id} one={one} />
          ))}
        </>
      )}
    </Frame>
  );
}

function Slab({ one }: { one: Schemas["ClassHead"] }) {
  const params = { id: one.id };
  const term = one.starts_on && one.ends_on ? `${dayWords(one.starts_on)} to ${dayWords(one.ends_on)}` : null;
  return (
    <section className={classes.slab} aria-label={one.title}>
      <h2>
        <Link to="/classes/$id" params={params}>
          {one.title}
        </Link>
      </h2>
      <p className={`${classes.facts} ${classes.dim}`}>
        <span>{one.students === 1 ? "1 student" : `${one.students} students`}</span>
        <span>{one.assignments === 1 ? "1 assignment" : `${one.assignments} assignments`}</span>
        {one.drafts > 0 && <span>{one.drafts === 1 ? "1 draft" : `${one.drafts} drafts`}</span>}
        {term && <span>{term}</span>}
      </p>
      {(one.waiting > 0 || one.unseen > 0) && (
        <p className={classes.facts}>
          {one.waiting > 0 && (
            <Link to="/marking" className={classes.needs}>
              {one.waiting === 1
                ? "1 hand-in waits to be marked"
                : `${one.waiting} hand-ins wait to be marked`}
            </Link>
          )}
          {one.unseen > 0 && (
            <Link to="/classes/$id" params={params} search={{ show: "unseen" }}>
              {one.unseen === 1 ? "1 student" : `${one.unseen} students`} not seen for a week
            </Link>
          )}
        </p>
      )}
    </section>
  );
}
