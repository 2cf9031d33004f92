import { choice } from "./choice";
import type { Answer, Entry, FieldProps, GivenProps, Kind, Response } from "./kinds";
import { typed } from "./typed";

/** Every kind of answer, one line each: the compiler asks for the line of a kind that the server knows. */
const answers: { [K in Kind]: Answer<K> } = { typed, choice };

const answerOf = <K extends Kind>(entry: Extract<Entry, { type: K }>): Answer<K> => answers[entry.type as K];

/** What a field holds before anything was entered. */
export const emptyOf = (entry: Entry): Response => answerOf(entry).empty;

/** The field of a part, whatever its kind. */
export function AnswerField(props: FieldProps<Kind>) {
  const { Field } = answerOf(props.entry) as Answer<Kind>;
  return <Field {...props} />;
}

/** What was given for a part, whatever its kind. */
export function AnswerGiven(props: GivenProps<Kind>) {
  const { Given } = answerOf(props.entry) as Answer<Kind>;
  return <Given {...props} />;
}
