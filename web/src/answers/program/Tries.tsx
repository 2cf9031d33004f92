import { Button, Modal, NativeSelect } from "@mantine/core";
import { lazy, Suspense, useState } from "react";
import classes from "./Program.module.css";

const Compare = lazy(() => import("./Compare"));

export type Version = { name: string; program: string };

/** Versions of a program, the oldest first: any two of them side by side. */
export function CompareVersions({ versions }: { versions: Version[] }) {
  const [open, setOpen] = useState(false);
  if (versions.length < 2) return null;
  return (
    <>
      <Button size="compact-sm" variant="default" onClick={() => setOpen(true)}>
        Compare {versions.length} versions
      </Button>
      <Modal
        opened={open}
        onClose={() => setOpen(false)}
        size="min(1100px, 94vw)"
        title="Versions of the program"
        closeButtonProps={{ "aria-label": "Close" }}
        transitionProps={{ duration: 0 }}
      >
        {open && <Both versions={versions} />}
      </Modal>
    </>
  );
}

function Both({ versions }: { versions: Version[] }) {
  const [left, setLeft] = useState(versions.length - 2);
  const [right, setRight] = useState(versions.length - 1);
  const choices = versions.map((v, i) => ({ value: String(i), label: v.name }));
  const [a, b] = [versions[left], versions[right]];
  return (
    <>
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
    </>
  );
}
