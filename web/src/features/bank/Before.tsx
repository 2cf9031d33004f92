import { queryOptions, useQuery } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import classes from "./Bank.module.css";

const beforeQuery = (slug: string) =>
  queryOptions({
    queryKey: ["bank", slug, "went"],
    queryFn: () => ask(api.GET("/api/bank/{slug}/went", { params: { path: { slug } } })),
    staleTime: 60_000,
  });

/** How a question went before, in one's own classes. */
export function Before({ id }: { id: string }) {
  const { data } = useQuery(beforeQuery(id));
  if (!data) return null;
  if (data.tried === 0) return <p className={classes.dim}>None of your students has tried it yet.</p>;
  const share = (n: number) => `${Math.round((100 * n) / data.tried)} %`;
  return (
    <p className={classes.dim} data-testid="went-before">
      Before: {data.tried === 1 ? "1 student" : `${data.tried} students`} in{" "}
      {data.assignments === 1 ? "1 assignment" : `${data.assignments} assignments`}; right at the first check{" "}
      {share(data.right_first)}, in the end {share(data.right_in_the_end)};{" "}
      {data.hints === 1 ? "1 hint" : `${data.hints} hints`}.
    </p>
  );
}
