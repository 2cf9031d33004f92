import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const slipsQuery = () =>
  queryOptions({ queryKey: ["slips"], queryFn: () => ask(api.GET("/api/slips")), staleTime: 0 });
