import { clock } from "../../../shared/when";
import type { Standing } from "../keeper";
import classes from "./SavedState.module.css";

/** Whether what is typed is kept. */
export function SavedState({ standing }: { standing: Standing }) {
  const words =
    standing.kind === "kept"
      ? standing.at
        ? `Saved ${clock(standing.at)}`
        : "Saved"
      : standing.kind === "keeping"
        ? "Saving…"
        : standing.kind === "waiting"
          ? "Not saved yet"
          : "Not saved";
  return (
    <span
      className={classes.saved}
      data-kind={standing.kind}
      data-testid="saved-state"
      title={"words" in standing ? standing.words : "What you typed is kept on the server."}
    >
      {words}
    </span>
  );
}
