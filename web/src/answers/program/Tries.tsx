import { NativeSelect } from "@mantine/core";
import { lazy, Suspense, useState } from "react";
import classes from "./Program.module.css";

const Compare = lazy(() => import("./Compare"));

export type Version = { name: string; program: string };

/** Versions of a program, the oldest first: any two of them side by side. */
export function CompareVersions({ versions }: { versions: Version[] }) {
  const [left, setLeft] = useState(0);
  const [right, setRight] = useState(versions.length - 1);
  if (versions.length < 2) return null;
  const choices = versions.map((v, i) => ({ value: String(i), label: v.name }));
  const [a, b] = [versions[left], versions[right]];
  return (
    <details className={classes.file}>
      <summary>Compare {versions.length} versions of the program</summary>
      <div className={classes.row}>
        <NativeSelect
          size="sm"
          label="Left"
          data={choices}
          value={String(left)}
          onChange={(e) => setLeft(Number(e.currentTarget.value))}
        />
        <NativeSelect
          size="sm"
          label="Right"
          data={choices}
          value={String(right)}
          onChange={(e) => setRight(Number(e.currentTarget.value))}
        />
      </div>
      {a && b && (
        <Suspense fallback={<p>One moment…</p>}>
          {a.program === b.program ? <p>Both are the same.</p> : <Compare a={a.program} b={b.program} />}
        </Suspense>
      )}
    </details>
  );
}
