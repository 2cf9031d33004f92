import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export const api = createClient<paths>({ baseUrl: "" });

/** A refusal or failure, in words for the person. `code` is null when no answer came at all. */
export class Failure extends Error {
  readonly code: string | null;
  readonly status: number;

  constructor(code: string | null, words: string, status: number) {
    super(words);
    this.code = code;
    this.status = status;
  }
}

const noAnswer = "The server can't be reached just now. What you typed is kept; try again in a moment.";

/** The data of an answer, or a Failure with its words. */
export async function ask<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer: { data?: T; error?: unknown; response: Response };
  try {
    answer = await call;
  } catch {
    throw new Failure(null, noAnswer, 0);
  }
  if (!answer.response.ok) {
    const problem = answer.error as Partial<Schemas["Problem"]> | undefined;
    throw new Failure(problem?.code ?? null, problem?.detail ?? noAnswer, answer.response.status);
  }
  return answer.data as T;
}

/** Whether trying again is of no use. After signing in, or a moment later, it may well be. */
export function isRefused(error: unknown): boolean {
  if (!(error instanceof Failure)) return false;
  return error.status >= 400 && error.status < 500 && ![401, 408, 429].includes(error.status);
}
