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

export const textQuery = (slug: string) =>
  queryOptions({
    queryKey: ["bank", slug, "text"],
    queryFn: () => ask(api.GET("/api/bank/{slug}/text", { params: { path: { slug } } })),
    staleTime: 0,
  });

export const startersQuery = () =>
  queryOptions({ queryKey: ["bank", "starters"], queryFn: () => ask(api.GET("/api/bank/starters")) });

export const triedQuery = (text: string, seed: number, parts: Given[]) =>
  queryOptions({
    queryKey: ["bank-try", text, seed, parts],
    queryFn: () => ask(api.POST("/api/bank/try", { body: { text, seed, parts } })),
    placeholderData: (before) => before,
    gcTime: 30_000,
  });

export const correctionQuery = (slug: string) =>
  queryOptions({
    queryKey: ["bank", slug, "correction"],
    queryFn: () => ask(api.GET("/api/bank/{slug}/correction", { params: { path: { slug } } })),
    staleTime: 0,
  });
