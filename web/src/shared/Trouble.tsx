import type { ReactNode } from "react";
import classes from "./Trouble.module.css";

/** What went wrong, in words, with what can be done beside it. */
export function Trouble({ error, children }: { error: unknown; children?: ReactNode }) {
  const words = error instanceof Error ? error.message : "Something went wrong.";
  return (
    <div role="alert" className={classes.trouble}>
      <p>{words}</p>
      {children}
    </div>
  );
}
