import { Progress } from "@mantine/core";
import type { Schemas } from "../api/client";
import classes from "./GoalLines.module.css";
import { percent } from "./when";

type Goal = Schemas["GoalView"];
type Line = Schemas["GoalLineView"];

/** What a goal asks for, in one sentence. */
export function goalWords(goal: Goal): string {
  const first = goal.lines[0];
  if (!first) return "";
  const titles = new Intl.ListFormat("en-GB").format(
    goal.lines.flatMap((l) => (l.line === "right" || l.line === "start" ? [] : [l.title])),
  );
  if (first.line === "start") return "Do the starting point of this class";
  if (first.line === "watch") return `Play “${first.title}” to the end and answer at its stops`;
  if (first.line === "right") return `${first.wanted} right first time, on fresh numbers`;
  if (first.line === "page") return `Read ${goal.lines.length === 1 ? "the page" : "the pages"}: ${titles}`;
  return `Bring ${titles} to ${first.wanted} of 100`;
}

/** How far it is reached, in a few words. */
export function goalLeft(goal: Goal): string {
  if (goal.reached) return "goal reached";
  const first = goal.lines[0];
  if (first?.line === "start") return "starting point not done yet";
  if (first?.line === "watch") return `${first.percent} % seen`;
  if (first?.line === "right") return `${first.right} of ${first.wanted} right`;
  const done = goal.lines.filter((l) =>
    l.line === "page" ? l.read : l.line === "skill" && l.score >= l.wanted,
  );
  if (first?.line === "page") {
    return `${done.length} of ${goal.lines.length} ${goal.lines.length === 1 ? "page" : "pages"} read`;
  }
  return `${percent(Math.floor(goal.percent))} of the goal`;
}

function lineWords(line: Line): string {
  if (line.line === "watch") return `${line.title}: ${line.percent} % seen`;
  if (line.line === "start") return `Starting point: ${line.done ? "done" : "not done yet"}`;
  if (line.line === "right") {
    return `${line.right} of ${line.wanted} right first time · ${line.answered} answered`;
  }
  if (line.line === "page") return `${line.title}: ${line.read ? "read" : "not read yet"}`;
  return `${line.title}: ${towards(line.score, line.wanted)}`;
}

/** A score on its way to a goal: never more of it than there is. */
export function towards(score: number, wanted: number): string {
  return score >= wanted ? `${score}, ${wanted} wanted` : `${score} of the ${wanted} wanted`;
}

function share(line: Line): number {
  if (line.line === "page") return line.read ? 100 : 0;
  if (line.line === "start") return line.done ? 100 : 0;
  if (line.line === "watch") return line.percent;
  return Math.min(100, (100 * (line.line === "right" ? line.right : line.score)) / line.wanted);
}

/** What a goal is made of, each with how far it is. */
export function GoalLines({ goal }: { goal: Goal }) {
  return (
    <ul className={classes.lines}>
      {goal.lines.map((line) => (
        <li
          key={
            line.line === "right" || line.line === "start" || line.line === "watch" ? line.line : line.skill
          }
        >
          <span>{lineWords(line)}</span>
          <Progress value={share(line)} color="moss" size="sm" aria-hidden />
        </li>
      ))}
    </ul>
  );
}
