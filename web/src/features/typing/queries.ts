import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const typingQuery = () =>
  queryOptions({ queryKey: ["typing"], queryFn: () => ask(api.GET("/api/typing")), staleTime: 0 });
