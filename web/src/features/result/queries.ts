import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const resultQuery = (id: string) =>
  queryOptions({
    queryKey: ["result", id],
    queryFn: () => ask(api.GET("/api/assignments/{id}/result", { params: { path: { id } } })),
    staleTime: 0,
  });
