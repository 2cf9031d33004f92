import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { createContext, useContext, useEffect, useState } from "react";
import type { Schemas } from "../../api/client";
import { readQuery } from "../../features/board/queries";
import { Maths } from "../../shared/Maths";
import classes from "./ReadsAs.module.css";

type Props = {
  assignment: string;
  question: number;
  part: string;
  name: string;
  entry: string;
  id: string;
};

/** Who reads entries, where that is not the assignment. */
export const ReadFrom = createContext<{
  key: string;
  read: (part: string, entry: string) => Promise<Schemas["ReadView"]>;
} | null>(null);

/** How the entry was understood, while it is typed. It never blocks typing. */
export function ReadsAs({ assignment, question, part, name, entry, id }: Props) {
  const [settled, setSettled] = useState(entry);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(entry), 70);
    return () => window.clearTimeout(timer);
  }, [entry]);
  const blank = settled.trim() === "";
  const from = useContext(ReadFrom);
  const reading = useQuery({
    ...(from
      ? {
          queryKey: ["read", from.key, part, settled],
          queryFn: () => from.read(part, settled),
          staleTime: Number.POSITIVE_INFINITY,
        }
      : readQuery(assignment, question, part, settled)),
    enabled: !blank,
    placeholderData: keepPreviousData,
  });
  const read = blank ? undefined : reading.data;
  return (
    <div className={classes.reads} id={id} aria-live="polite" data-testid={`reads-as-${name}`}>
      <span className={classes.label}>Reads as</span>
      {!read && (
        <span className={classes.dim}>{reading.isError && !blank ? "no answer from the server" : "…"}</span>
      )}
      {read && !read.problem && <Maths latex={read.reads_as} spoken={read.speech} />}
      {read?.problem && (
        <span className={classes.problem}>
          <Marked entry={settled} start={read.problem.start} end={read.problem.end} />
          <span>{read.problem.words}</span>
        </span>
      )}
      {read?.cautions.map((caution) => (
        <span key={caution} className={classes.caution}>
          {caution}
        </span>
      ))}
    </div>
  );
}

/** The entry with the place marked that cannot be read. */
function Marked({ entry, start, end }: { entry: string; start: number; end: number }) {
  const chars = [...entry];
  const to = Math.max(end, start + 1);
  const wrong = chars.slice(start, to).join("");
  return (
    <code className={classes.marked}>
      {chars.slice(0, start).join("")}
      <mark>{wrong || "\u2423"}</mark>
      {chars.slice(to).join("")}
    </code>
  );
}
