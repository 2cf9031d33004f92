import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

export const markingQuery = () =>
  queryOptions({ queryKey: ["marking"], queryFn: () => ask(api.GET("/api/marking")), staleTime: 0 });

export const studentToMarkQuery = (id: string, student: string) =>
  queryOptions({
    queryKey: ["marking", id, "student", student],
    queryFn: () => ask(api.GET("/api/marking/{id}/student/{student}", { params: { path: { id, student } } })),
    staleTime: 0,
  });

export const toMarkQuery = (id: string, question: number) =>
  queryOptions({
    queryKey: ["marking", id, question],
    queryFn: () => ask(api.GET("/api/marking/{id}/{question}", { params: { path: { id, question } } })),
    staleTime: 0,
  });
