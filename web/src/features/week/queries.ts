import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const weekQuery = () =>
  queryOptions({ queryKey: ["week"], queryFn: () => ask(api.GET("/api/week")), staleTime: 0 });
