import { type ComponentType, lazy, Suspense } from "react";
import { choice } from "./choice";
import type { Answer, Entry, FieldProps, GivenProps, Kind, Response } from "./kinds";
import { Lines } from "./Lines";
import { ProgramGiven } from "./program/Given";
import { typed } from "./typed";
import { WrittenGiven } from "./WrittenText";

/** A kind whose field is loaded when it is first needed. */
function later<K extends Kind>(
  load: () => Promise<{ default: ComponentType<FieldProps<K>> }>,
  empty: Response,
): Answer<K> {
  return { Field: lazy(load), Given: Lines, empty };
}

/** Every kind of answer, one line each: the compiler asks for the line of a kind that the server knows. */
const answers: { [K in Kind]: Answer<K> } = {
  typed,
  choice,
  inline: later(() => import("./inline/Field"), { fields: {} }),
  gap_match: later(() => import("./gap_match/Field"), { fields: {} }),
  match: later(() => import("./match/Field"), { pairs: [] }),
  associate: later(() => import("./associate/Field"), { pairs: [] }),
  group: later(() => import("./group/Field"), { fields: {} }),
  order: later(() => import("./order/Field"), { order: [] }),
  hot_text: later(() => import("./hot_text/Field"), []),
  slider: { ...later(() => import("./slider/Field"), ""), Given: typed.Given },
  matrix: { ...later(() => import("./matrix/Field"), { grid: [] }), Given: typed.Given },
  hotspot: later(() => import("./hotspot/Field"), []),
  graphic_order: later(() => import("./graphic_order/Field"), { order: [] }),
  graphic_gap_match: later(() => import("./graphic_gap_match/Field"), { fields: {} }),
  place: later(() => import("./place/Field"), { pairs: [] }),
  counters: later(() => import("./counters/Field"), { fields: {} }),
  plane: later(() => import("./plane/Field"), { objects: {} }),
  extended_text: { ...later(() => import("./extended_text/Field"), { written: {} }), Given: WrittenGiven },
  recording: { ...later(() => import("./recording/Field"), { written: {} }), Given: WrittenGiven },
  program: { ...later(() => import("./program/Field"), { program: "" }), Given: ProgramGiven },
  fraction: { ...later(() => import("./fraction/Field"), ""), Given: typed.Given },
};

const answerOf = <K extends Kind>(entry: Extract<Entry, { type: K }>): Answer<K> => answers[entry.type as K];

/** What a field holds before anything was entered: a program has its starting text. */
export const emptyOf = (entry: Entry): Response =>
  entry.type === "program" ? { program: entry.start } : answerOf(entry).empty;

/** The field of a part, whatever its kind. */
export function AnswerField(props: FieldProps<Kind>) {
  const { Field } = answerOf(props.entry) as Answer<Kind>;
  return (
    <Suspense fallback={<p>One moment…</p>}>
      <Field {...props} />
    </Suspense>
  );
}

/** What was given for a part, whatever its kind. */
export function AnswerGiven({ entry, verdict }: GivenProps & { entry: Entry }) {
  const { Given } = answerOf(entry);
  return <Given verdict={verdict} />;
}
