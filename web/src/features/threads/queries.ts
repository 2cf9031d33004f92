import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const threadsQuery = () =>
  queryOptions({ queryKey: ["threads"], queryFn: () => ask(api.GET("/api/threads")), staleTime: 0 });

export const threadQuery = (id: string) =>
  queryOptions({
    queryKey: ["threads", id],
    queryFn: () => ask(api.GET("/api/threads/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });

export const settledWords: Record<string, string> = {
  stands: "The mark stands",
  accepted: "The entry was accepted",
  key_corrected: "The key was corrected",
  accepted_for_all: "The entry was accepted for all who gave it",
};
