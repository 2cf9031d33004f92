import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const scoresQuery = () =>
  queryOptions({ queryKey: ["scores"], queryFn: () => ask(api.GET("/api/scores")), staleTime: 0 });
