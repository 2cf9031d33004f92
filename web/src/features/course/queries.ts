import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const myClassesQuery = () =>
  queryOptions({
    queryKey: ["class"],
    queryFn: () => ask(api.GET("/api/class")),
    staleTime: 300_000,
  });

export const courseQuery = (id: string) =>
  queryOptions({
    queryKey: ["class", id],
    queryFn: () => ask(api.GET("/api/class/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });

export const suggestionsQuery = () =>
  queryOptions({
    queryKey: ["suggestions"],
    queryFn: () => ask(api.GET("/api/suggestions")),
    staleTime: 0,
  });
