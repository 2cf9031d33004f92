import type { ComponentType } from "react";
import type { Schemas } from "../api/client";

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
  onChange: (value: Response) => void;
};

/** What was given, as it is shown beside a verdict. */
export type GivenProps<K extends Kind> = {
  entry: Extract<Entry, { type: K }>;
  verdict: Schemas["VerdictView"];
};

/** A kind of answer. */
export type Answer<K extends Kind> = {
  Field: ComponentType<FieldProps<K>>;
  Given: ComponentType<GivenProps<K>>;
  /** Nothing entered yet. */
  empty: Response;
};
