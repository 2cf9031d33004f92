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

/** For a page that broke: says so, and what can be done. */
export function Broken() {
  return (
    <Frame>
      <h1>This page stopped working</h1>
      <p>
        What you typed is kept. <a href={window.location.href}>Load it again</a>, or{" "}
        <Link to="/">go to Week</Link>.
      </p>
    </Frame>
  );
}
