import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const meQuery = () =>
  queryOptions({ queryKey: ["me"], queryFn: () => ask(api.GET("/api/me")), staleTime: 60_000 });
