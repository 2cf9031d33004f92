import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const previewQuery = (id: string) =>
  queryOptions({
    queryKey: ["hand-in", id],
    queryFn: () => ask(api.GET("/api/assignments/{id}/hand-in", { params: { path: { id } } })),
    staleTime: 0,
    gcTime: 0,
  });

export const receiptQuery = (id: string, number: number) =>
  queryOptions({
    queryKey: ["receipt", id, number],
    queryFn: () =>
      ask(api.GET("/api/assignments/{id}/receipts/{number}", { params: { path: { id, number } } })),
    staleTime: 0,
  });
