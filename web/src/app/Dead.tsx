import { Link } from "@tanstack/react-router";
import { Frame } from "./Frame";

/** For an address that leads nowhere. */
export function NotHere() {
  return (
    <Frame title="Nothing here">
      <h1>There is no page at this address</h1>
      <p>
        The page may have moved, or you may not be in its class. <Link to="/">Go to Week</Link>
      </p>
    </Frame>
  );
}

/** For a page that broke: says so, and what can be done. */
export function Broken() {
  return (
    <Frame title="Stopped">
      <h1>This page stopped working</h1>
      <p>
        What you typed is kept. <a href={window.location.href}>Load it again</a>, or{" "}
        <Link to="/">go to Week</Link>.
      </p>
    </Frame>
  );
}
