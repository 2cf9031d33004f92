import type { Schemas } from "../../api/client";
import { goalLeft } from "../../shared/GoalLines";
import { daysBetween } from "../../shared/when";

export type Entry = Schemas["WeekEntry"];
export type Day = { name: string; entries: Entry[] };

/** The spine's places, in order. */
function place(now: string, entry: Entry): string {
  const days = daysBetween(now, entry.due);
  if (new Date(entry.due) < new Date(now)) return "Overdue";
  if (days === 0) return "Today";
  if (days === 1) return "Tomorrow";
  const weekday = (new Date(now).getDay() + 6) % 7;
  if (days < 7 - weekday) {
    return new Intl.DateTimeFormat("en-GB", { weekday: "long" }).format(new Date(entry.due));
  }
  return days < 14 - weekday ? "Next week" : "Later";
}

const isDone = (entry: Entry) => entry.state !== "not_opened" && entry.state !== "under_way";

/** What is open, by day; and what is finished, the latest first. */
export function spine(now: string, entries: Entry[]): { days: Day[]; finished: Entry[] } {
  const days: Day[] = [];
  for (const entry of entries.filter((e) => !isDone(e))) {
    const name = place(now, entry);
    const day = days.find((d) => d.name === name);
    if (day) day.entries.push(entry);
    else days.push({ name, entries: [entry] });
  }
  return { days, finished: entries.filter(isDone).reverse() };
}

export function leftInWords(entry: Entry): string {
  if (entry.goal) return goalLeft(entry.goal);
  if (entry.questions_left === 0) return "nothing left to answer";
  if (entry.questions_left === entry.questions) return `${entry.questions} questions`;
  return `${entry.questions_left} of ${entry.questions} questions left`;
}

export const actionWords: Record<Schemas["Action"], string> = {
  open: "Open",
  carry_on: "Carry on",
  hand_in: "Hand in",
  look: "Look at it",
  result: "See the result",
  practise: "Practise",
  wait: "Cover sheet",
  first: "Class page",
};

/** Where an assignment's action leads. */
export function addressOf(
  { id, class_id }: { id: string; class_id: string },
  action: Schemas["Action"],
  goal: boolean,
): string {
  if (action === "first") return `/class/${class_id}`;
  if (action === "hand_in") return `/work/${id}/hand-in`;
  if (action === "result") return `/work/${id}/result`;
  if (goal && action === "carry_on") return `/work/${id}/goal`;
  return `/work/${id}`;
}
