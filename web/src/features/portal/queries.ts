import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const arrivalQuery = () =>
  queryOptions({
    queryKey: ["arrival"],
    queryFn: () => ask(api.GET("/api/arrival")),
    staleTime: 0,
    retry: false,
  });

export const pickQuery = () =>
  queryOptions({
    queryKey: ["arrival", "pick"],
    queryFn: () => ask(api.GET("/api/arrival/pick")),
    staleTime: 0,
    retry: false,
  });

export const classPortalQuery = (id: string) =>
  queryOptions({
    queryKey: ["classes", id, "portal"],
    queryFn: () => ask(api.GET("/api/classes/{id}/portal", { params: { path: { id } } })),
    staleTime: 0,
  });

export const portalScoresQuery = () =>
  queryOptions({
    queryKey: ["portal-scores"],
    queryFn: () => ask(api.GET("/api/portal-scores")),
    staleTime: 10_000,
    // Until it is there.
    refetchInterval: (query) =>
      query.state.data?.scores.some((s) => s.state === "waiting") ? 15_000 : false,
  });
