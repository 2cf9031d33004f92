import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const boardQuery = (id: string) =>
  queryOptions({
    queryKey: ["board", id],
    queryFn: () => ask(api.GET("/api/assignments/{id}/board", { params: { path: { id } } })),
    staleTime: 0,
  });

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
