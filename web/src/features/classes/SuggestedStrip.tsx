import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import classes from "./Desk.module.css";
import { classSkillsQuery } from "./queries";

/** How far the class is with what was suggested to it. */
export function SuggestedStrip({ id }: { id: string }) {
  const { data } = useQuery(classSkillsQuery(id));
  if (!data || data.suggested.length === 0) return null;
  return (
    <p className={classes.strip} data-testid="suggested">
      <Link to="/classes/$id/skills" params={{ id }}>
        Suggested skills
      </Link>
      {data.suggested.map((s) => (
        <span key={s.id}>
          {s.title}
          {s.only && ` (${s.only})`}: reached by <b>{s.reached}</b> of {s.students.length}
        </span>
      ))}
    </p>
  );
}
