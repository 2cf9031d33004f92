import { queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export type Review = Schemas["ReviewView"] & {
  /** What became of each question so far: `null` before it is answered. */
  answers: (boolean | null)[];
  at: number;
};

export const reviewChoicesQuery = () =>
  queryOptions({ queryKey: ["review-choices"], queryFn: () => ask(api.GET("/api/review")), staleTime: 0 });

const place = "green-slate/review";

/** A review lives in this tab alone: the server keeps nothing of it, and a reload should not lose it. */
export function findReview(person: string): Review | null {
  try {
    const kept = JSON.parse(sessionStorage.getItem(place) ?? "null");
    return kept?.person === person ? kept.review : null;
  } catch {
    return null;
  }
}

export function keepReview(person: string, review: Review | null) {
  if (review) sessionStorage.setItem(place, JSON.stringify({ person, review }));
  else sessionStorage.removeItem(place);
}
