import { queryOptions } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../api/client";
import type { Given } from "../board/keeper";

export type Source = Schemas["LooseSource"];
export type Entered = { id: string; response: Given }[];

/** A question outside every record; asked again it is the same. */
export const looseQuery = (source: Source) =>
  queryOptions({
    queryKey: ["loose", source],
    queryFn: () => ask(api.POST("/api/loose", { body: { source, parts: [], show_working: false } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

export const checkLoose = (source: Source, parts: Entered, show_working: boolean) =>
  ask(api.POST("/api/loose", { body: { source, parts, show_working } }));
