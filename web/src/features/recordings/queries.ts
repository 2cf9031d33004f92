import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

/** By its id, or the name of one that ships. */
export const recordingQuery = (name: string) =>
  queryOptions({
    queryKey: ["recording", name],
    queryFn: () => ask(api.GET("/api/recordings/{name}", { params: { path: { name } } })),
    staleTime: 0,
    refetchOnWindowFocus: false,
  });

/** What a recording is set as: asked for again once it is done, as it hands itself in then. */
export const worksQuery = (id: string, done: boolean) =>
  queryOptions({
    queryKey: ["recording-works", id, done],
    queryFn: () => ask(api.GET("/api/recordings/{id}/works", { params: { path: { id } } })),
    staleTime: 0,
  });

export const bankRecordingsQuery = () =>
  queryOptions({ queryKey: ["bank-recordings"], queryFn: () => ask(api.GET("/api/bank-recordings")) });

export const bankRecordingQuery = (id: string) =>
  queryOptions({
    queryKey: ["bank-recordings", id],
    queryFn: () => ask(api.GET("/api/bank-recordings/{id}", { params: { path: { id } } })),
    staleTime: 0,
  });

/** Seconds as a clock shows them. */
export const clockOf = (seconds: number) => {
  const whole = Math.max(0, Math.floor(seconds + 0.001));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};
