import { useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import { Prose } from "./Prose";
import classes from "./Steps.module.css";

/** A working, step by step. */
export function Steps({ steps, focus = false }: { steps: Schemas["BlockView"][][]; focus?: boolean }) {
  const ref = useRef<HTMLOListElement>(null);
  useEffect(() => {
    if (focus) ref.current?.focus();
  }, [focus]);
  return (
    <ol className={classes.steps} data-testid="working" tabIndex={-1} ref={ref}>
      {steps.map((step, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: steps never change places
        <li key={i}>
          <Prose blocks={step} />
        </li>
      ))}
    </ol>
  );
}
