import { queryOptions, useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { Maths } from "../shared/Maths";

export const writingReadQuery = (entry: string) =>
  queryOptions({
    queryKey: ["writing-read", entry],
    queryFn: () => ask(api.POST("/api/writing/read", { body: { entry } })),
    staleTime: Number.POSITIVE_INFINITY,
    enabled: entry.trim() !== "",
  });

/** Maths in a piece of writing: set where it can be read, as it was typed where it cannot. */
export function MathsEntry({ entry }: { entry: string }) {
  const read = useQuery(writingReadQuery(entry));
  if (read.data && !read.data.problem) {
    return <Maths latex={read.data.reads_as} spoken={read.data.speech} />;
  }
  return <code>{entry || "…"}</code>;
}
