import type { ReactNode } from "react";
import classes from "./Trouble.module.css";

type Props = {
  error: unknown;
  children?: ReactNode;
  /** The page's heading, where what went wrong is all there is on it. */
  heading?: string | undefined;
};

/** What went wrong, in words, with what can be done beside it. */
export function Trouble({ error, children, heading }: Props) {
  const words = error instanceof Error ? error.message : "Something went wrong.";
  return (
    <>
      {heading && <h1>{heading}</h1>}
      <div role="alert" className={classes.trouble}>
        <p>{words}</p>
        {children}
      </div>
    </>
  );
}
