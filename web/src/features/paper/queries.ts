import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const ownPaperQuery = (id: string) =>
  queryOptions({
    queryKey: ["work", id, "paper"],
    queryFn: () => ask(api.GET("/api/assignments/{id}/paper", { params: { path: { id } } })),
    staleTime: Number.POSITIVE_INFINITY,
    gcTime: 0,
  });

export const paperStackQuery = (id: string, assignment: string) =>
  queryOptions({
    queryKey: ["classes", id, "paper", assignment],
    queryFn: () =>
      ask(
        api.GET("/api/classes/{id}/assignments/{assignment}/paper", { params: { path: { id, assignment } } }),
      ),
    staleTime: 60_000,
  });

export const writtenPaperQuery = (id: string, person: string, assignment: string) =>
  queryOptions({
    queryKey: ["classes", id, "paper", assignment, person],
    queryFn: () =>
      ask(
        api.GET("/api/classes/{id}/students/{person}/assignments/{assignment}/paper", {
          params: { path: { id, person, assignment } },
        }),
      ),
    staleTime: 0,
  });
