import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const coverQuery = (id: string) =>
  queryOptions({
    queryKey: ["cover", id],
    queryFn: () => ask(api.GET("/api/assignments/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });
