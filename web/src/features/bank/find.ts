import type { Schemas } from "../../api/client";

type Bank = Schemas["BankView"];

/** The kinds of answer, in a teacher's words. */
const labels: Record<string, string> = {
  text_entry: "typed",
  choice: "choice",
  inline: "gaps in a sentence",
  gap_match: "tiles into gaps",
  match: "rows to columns",
  associate: "pairs",
  group: "into groups",
  order: "in order",
  hot_text: "words marked",
  slider: "on a scale",
  matrix: "grid",
  fraction: "fraction boxes",
  hotspot: "places on a picture",
  graphic_order: "places in order",
  graphic_gap_match: "labels on a picture",
  place: "on a figure",
  counters: "counted things",
  plane: "drawn on a plane",
  extended_text: "written",
  recording: "recorded",
};

export const kindLabel = (kind: string) => labels[kind] ?? kind;

export function kindsOf(bank: Bank) {
  const there = new Set(bank.questions.flatMap((q) => q.kinds));
  return [...there]
    .map((k) => ({ value: k, label: kindLabel(k) }))
    .sort((a, b) => a.label.localeCompare(b.label));
}

export type Wanted = { words: string; skill: string | null; kind: string | null };

/** The questions that fit, by title. */
export function findQuestions(bank: Bank, { words, skill, kind }: Wanted) {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const fits = (q: Bank["questions"][number]) => {
    const text = `${q.title} ${q.begins} ${q.id}`.toLowerCase();
    return (
      (skill === null || q.skills.includes(skill)) &&
      (kind === null || q.kinds.includes(kind)) &&
      wanted.every((w) => text.includes(w))
    );
  };
  return bank.questions.filter(fits).sort((a, b) => a.title.localeCompare(b.title));
}
