import { createContext } from "react";
import type { Schemas } from "../../api/client";

/** What a question asks, for a field that shows it beside itself. */
export const Asked = createContext<Schemas["BlockView"][] | null>(null);

/** Whether a question's field shows what is asked beside itself. */
export const showsAsked = (question: Schemas["QuestionView"]) =>
  question.parts.length === 1 && question.parts[0]?.entry.type === "program";

/** What stands in each editor of the page now, by assignment, question and part. */
export const inEditors = new Map<string, string>();

export const programOf = (response: Schemas["ResponseView"] | undefined): string | null =>
  response && typeof response === "object" && "program" in response ? response.program : null;
