import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const pageMarksQuery = (skill: string) =>
  queryOptions({
    queryKey: ["marks", skill],
    queryFn: () => ask(api.GET("/api/pages/{skill}/marks", { params: { path: { skill } } })),
  });

export const allMarksQuery = () =>
  queryOptions({ queryKey: ["marks"], queryFn: () => ask(api.GET("/api/marks")) });
