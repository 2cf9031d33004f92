import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const startQuery = () =>
  queryOptions({ queryKey: ["start"], queryFn: () => ask(api.GET("/api/start")) });

export const linkQuery = (link: string) =>
  queryOptions({
    queryKey: ["welcome", link],
    queryFn: () => ask(api.POST("/api/welcome/look", { body: { link } })),
    enabled: link !== "",
  });
