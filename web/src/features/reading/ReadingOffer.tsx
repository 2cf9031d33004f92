import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../api/client";
import classes from "./Reading.module.css";

/** Pages of skills that are new to the student: offered, never forced. */
export function ReadingOffer({ skills }: { skills: Schemas["SkillBrief"][] }) {
  return (
    <aside className={classes.offer} aria-label="Reading offered">
      <p>
        {skills.length === 1
          ? "This is new to you. You can read about it first:"
          : "These are new to you. You can read about them first:"}
      </p>
      <ul>
        {skills.map((skill) => (
          <li key={skill.id}>
            <Link to="/read/$skill" params={{ skill: skill.id }} search={{}}>
              {skill.title}
            </Link>{" "}
            <span className={classes.dim}>
              {skill.page?.at_step
                ? `left at step ${skill.page.at_step} of ${skill.page.steps}`
                : `${skill.page?.minutes} min`}
            </span>
          </li>
        ))}
      </ul>
    </aside>
  );
}
