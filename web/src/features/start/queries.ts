import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const startQuery = (id: string) =>
  queryOptions({
    queryKey: ["start", id],
    queryFn: () => ask(api.GET("/api/class/{id}/start", { params: { path: { id } } })),
    staleTime: 0,
    refetchOnWindowFocus: false,
  });

export const classStartQuery = (id: string) =>
  queryOptions({
    queryKey: ["class-start", id],
    queryFn: () => ask(api.GET("/api/classes/{id}/start", { params: { path: { id } } })),
  });
