import type { ComponentType, LazyExoticComponent } from "react";
import type { Schemas } from "../api/client";
import { plainOf } from "./written";

export type Entry = Schemas["EntryView"];
export type Kind = Entry["type"];
export type Response = Schemas["ResponseView"];

/** What every kind's field is given, wherever it stands: on the board, in practice, in a review, beside a page. */
export type FieldProps<K extends Kind> = {
  assignment: string;
  question: number;
  part: string;
  /** The field's name on the page, where it is not the part's. */
  name?: string | undefined;
  entry: Extract<Entry, { type: K }>;
  /** What stands in it; `undefined` before anything was entered. */
  value: Response | undefined;
  disabled: boolean;
  invalid: boolean;
  /** The verdict on each member of what stands there now. */
  members: Schemas["MemberView"][];
  /** Members that were wrong on this set before. */
  wrongBefore: string[];
  onChange: (value: Response) => void;
};

/** What was given, as it is shown beside a verdict. */
export type GivenProps = { verdict: Schemas["VerdictView"] };

/** A kind of answer. */
export type Answer<K extends Kind> = {
  Field: ComponentType<FieldProps<K>> | LazyExoticComponent<ComponentType<FieldProps<K>>>;
  Given: ComponentType<GivenProps>;
  /** Nothing entered yet. */
  empty: Response;
};

export type Label = Schemas["ChoiceView"];

/** What stands in each place, where a response has places. */
export const fieldsOf = (value: Response | undefined): Record<string, string> =>
  value && typeof value === "object" && "fields" in value ? value.fields : {};

/** With another thing in one place; nothing there takes the place out. */
export function withField(fields: Record<string, string>, id: string, text: string): Response {
  const all = { ...fields, [id]: text };
  const kept = Object.keys(all)
    .filter((key) => all[key] !== "")
    .sort();
  return { fields: Object.fromEntries(kept.map((key) => [key, all[key] ?? ""])) };
}

export const pairsOf = (value: Response | undefined): string[][] =>
  value && typeof value === "object" && "pairs" in value ? value.pairs : [];

/** Whether two responses are the same, whatever the order of their places. */
export function sameResponse(a: Response | undefined, b: Response | undefined): boolean {
  return JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
}

function sorted(value: Response | undefined) {
  if (value && typeof value === "object" && "fields" in value) {
    const filled = Object.entries(value.fields).filter(([, text]) => text !== "");
    return { fields: filled.sort(([a], [b]) => (a < b ? -1 : 1)) };
  }
  return value;
}

/** Nothing was entered or chosen. */
export function isEmpty(value: Response | undefined): boolean {
  if (value === undefined) return true;
  if (typeof value === "string") return value.trim() === "";
  if (Array.isArray(value)) return value.length === 0;
  if ("order" in value) return value.order.length === 0;
  if ("fields" in value) return Object.values(value.fields).every((text) => text.trim() === "");
  if ("pairs" in value) return value.pairs.length === 0;
  if ("objects" in value) {
    return Object.values(value.objects).every((o) => o.points.flat().every((text) => text.trim() === ""));
  }
  if ("program" in value) return value.program.trim() === "";
  if ("written" in value) {
    const { text = [], files = [], links = [] } = value.written;
    return files.length === 0 && links.length === 0 && plainOf(text).trim() === "";
  }
  return value.grid.flat().every((text) => text.trim() === "");
}
