import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { Frame } from "../app/Frame";
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

/** For an address that leads nowhere. */
export function NotHere() {
  return (
    <Frame>
      <h1>There is nothing at this address</h1>
      <p>
        The page may have moved, or you may not be in its class. <Link to="/">Go to Week</Link>
      </p>
    </Frame>
  );
}
