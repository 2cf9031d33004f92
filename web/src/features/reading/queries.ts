import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const pageQuery = (skill: string) =>
  queryOptions({
    queryKey: ["page", skill],
    queryFn: () => ask(api.GET("/api/pages/{skill}", { params: { path: { skill } } })),
    staleTime: 60_000,
  });

export const keepPlace = (skill: string, step: number, read: boolean) =>
  ask(api.PUT("/api/pages/{skill}/place", { params: { path: { skill } }, body: { step, read } }));
