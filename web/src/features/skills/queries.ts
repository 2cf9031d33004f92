import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const skillsQuery = () =>
  queryOptions({ queryKey: ["skills"], queryFn: () => ask(api.GET("/api/skills")), staleTime: 0 });
