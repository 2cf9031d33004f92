import { type QueryClient, queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export const boardQuery = (id: string) =>
  queryOptions({
    queryKey: ["board", id],
    queryFn: async () => {
      const board = await ask(api.GET("/api/assignments/{id}/board", { params: { path: { id } } }));
      // How far this computer's clock is ahead of the server's, which decides.
      return { ...board, clockAhead: Date.now() - new Date(board.now).getTime() };
    },
    staleTime: 0,
  });

/** Puts a question that something was done to in its place, with the score that comes of it. */
export function takeUpdate(queryClient: QueryClient, id: string, update: Schemas["BoardUpdate"]) {
  queryClient.setQueryData(
    boardQuery(id).queryKey,
    (old) =>
      old && {
        ...old,
        score: update.score ?? null,
        reached: update.reached,
        questions: old.questions.map((q) => (q.question === update.question.question ? update.question : q)),
      },
  );
}

/** How an entry reads; the same entry always reads the same. */
export const readQuery = (id: string, question: number, part: string, entry: string) =>
  queryOptions({
    queryKey: ["read", id, question, part, entry],
    queryFn: () =>
      ask(
        api.POST("/api/assignments/{id}/read", {
          params: { path: { id } },
          body: { question, part, entry },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 60_000,
  });

const place = (id: string, question: number) => ({ params: { path: { id, question } } });

export const exampleQuery = (id: string, question: number) =>
  queryOptions({
    queryKey: ["example", id, question],
    queryFn: () => ask(api.POST("/api/assignments/{id}/questions/{question}/example", place(id, question))),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const sheetQuery = (id: string) =>
  queryOptions({
    queryKey: ["formula-sheet", id],
    queryFn: () => ask(api.GET("/api/assignments/{id}/formula-sheet", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const workingsQuery = (id: string, question: number) =>
  queryOptions({
    queryKey: ["workings", id, question],
    queryFn: () => ask(api.GET("/api/assignments/{id}/questions/{question}/workings", place(id, question))),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });
