import { queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";

export const bankQuery = () =>
  queryOptions({ queryKey: ["bank"], queryFn: () => ask(api.GET("/api/bank")), staleTime: 60_000 });

export type Given = Schemas["GivenPart"];

export const lookQuery = (slug: string, seed: number, parts: Given[] = []) =>
  queryOptions({
    queryKey: ["bank", slug, seed, parts],
    queryFn: () =>
      ask(api.POST("/api/bank/{slug}/look", { params: { path: { slug } }, body: { seed, parts } })),
    placeholderData: (before) => before,
  });
