import type { Schemas } from "../../api/client";

type Answer = Schemas["AnswerToMark"];
type Part = Schemas["AnswerToMarkPart"];

/** Points and lines of a part as they stand in the fields: "4." is on its way to be a number. */
export type HalfPart = { points: number | string; met: number[] };
/** A mark as it stands in the fields. */
export type Half = { note: string; parts: Record<string, HalfPart>; total?: number | string };

export const byHand = (answer: Answer): Part[] => answer.parts.filter((p) => p.by_hand);

const empty: HalfPart = { points: "", met: [] };

/** What was kept, else what was given, as it would stand in the fields. */
export function halfOf(answer: Answer): Half {
  const stands = answer.kept ?? answer.given;
  const of = (part: Part): HalfPart => {
    const found = stands?.parts.find((p) => p.part === part.id);
    return found ? { points: found.points, met: found.met } : empty;
  };
  const parts = Object.fromEntries(byHand(answer).map((p) => [p.id, of(p)]));
  // Points for the whole question that no parts account for.
  const total = stands && stands.parts.length === 0 ? stands.points : undefined;
  return { note: stands?.note ?? "", parts, ...(total === undefined ? {} : { total }) };
}

const rounded = (n: number) => Math.round(n * 100) / 100;

/** The points of the lines that are ticked, as the server works them out again. */
export const ofLines = (part: Part, met: number[]) =>
  rounded(met.reduce((sum, line) => sum + (part.rubric[line]?.points ?? 0), 0));

/** A number within bounds, or nothing. */
export function within(typed: number | string, most: number): number | undefined {
  const text = String(typed).trim();
  const value = Number(text);
  return text !== "" && value >= 0 && value <= most + 0.005 ? value : undefined;
}

/** What would be given now; nothing while something is missing. */
export function totalOf(answer: Answer, half: Half, of: number): number | undefined {
  if (half.total !== undefined) return within(half.total, of);
  let sum = answer.earned;
  for (const part of byHand(answer)) {
    const points = within(half.parts[part.id]?.points ?? "", part.worth);
    if (points === undefined) return undefined;
    sum += points;
  }
  return rounded(sum);
}

/** What is sent: points that come from lines are worked out by the server. */
export function partsToGive(answer: Answer, half: Half): Schemas["PartToGive"][] {
  if (half.total !== undefined) return [];
  return byHand(answer).map((part) => {
    const { points, met } = half.parts[part.id] ?? empty;
    const fromLines = met.length > 0 && ofLines(part, met) === Number(points);
    return { part: part.id, met, points: fromLines ? null : Number(points) };
  });
}
