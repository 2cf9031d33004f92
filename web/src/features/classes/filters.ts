import type { Schemas } from "../../api/client";

export const filters = [
  { value: "all", label: "Everybody" },
  { value: "not_opened", label: "Not opened something that is due" },
  { value: "late", label: "Late with something" },
  { value: "below_pass", label: "Below a pass mark" },
  { value: "waiting", label: "Waiting for you" },
  { value: "unseen", label: "Not seen for a week" },
] as const;

export type Filter = (typeof filters)[number]["value"];

type Student = Schemas["SheetStudent"];

const fits: Record<Filter, (s: Student) => boolean> = {
  all: () => true,
  not_opened: (s) =>
    s.cells.some((c) => c?.state === "not_opened" || c?.state === "closed_nothing_handed_in"),
  late: (s) => s.cells.some((c) => c?.late),
  below_pass: (s) => s.cells.some((c) => c?.below_pass),
  waiting: (s) => s.cells.some((c) => c?.waiting),
  unseen: (s) => s.unseen,
};

/** The students that a filter and a few letters leave. */
export function shownStudents(all: Student[], filter: Filter, words: string): Student[] {
  const wanted = words.trim().toLowerCase();
  const named = (s: Student) => `${s.name} ${s.group ?? ""}`.toLowerCase().includes(wanted);
  return all.filter((s) => fits[filter](s) && (wanted === "" || named(s)));
}
