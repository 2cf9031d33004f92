import type { Schemas } from "../api/client";

type Outcome = Schemas["OutcomeView"];

export const verdictWords: Record<Outcome, string> = {
  right: "Right",
  partly_right: "Partly right",
  not_yet: "Not yet",
  wrong_form: "Right, but not in this form",
  cannot_read: "Can't read this",
  not_finished: "Not finished yet",
  with_the_teacher: "With the teacher",
  marked_by_teacher: "Marked by your teacher",
};

const marks: Record<Outcome, string> = {
  right: "M4 11l5 5 9-11",
  partly_right: "M4 11h14M11 4v14",
  not_yet: "M5 16L17 6",
  wrong_form: "M5 8h12M5 14h12",
  not_finished: "M5 12h.6M11 12h.6M17 12h.6",
  with_the_teacher: "M3 6h16v11H3zM3 6l8 6 8-6",
  marked_by_teacher: "M3 6h16v11H3zM7 11l3 3 6-6",
  cannot_read: "M8 7a3.4 3.4 0 1 1 3.4 4v2.4M11.4 17v.6",
};

/** Each verdict's own shape. */
export function VerdictMark({ outcome }: { outcome: Outcome }) {
  return (
    <svg viewBox="0 0 22 22" width="20" height="20" aria-hidden="true">
      <path d={marks[outcome]} fill="none" stroke="currentColor" strokeWidth="2.6" strokeLinecap="round" />
    </svg>
  );
}
