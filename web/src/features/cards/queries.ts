import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const cardsQuery = () =>
  queryOptions({ queryKey: ["cards"], queryFn: () => ask(api.GET("/api/cards")), staleTime: 60_000 });
