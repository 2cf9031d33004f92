import type { Standing } from "../keeper";
import classes from "./KeptBanner.module.css";

/** A plain sign that what is typed is not on the server yet, and where it is instead. */
export function KeptBanner({ standing }: { standing: Standing }) {
  if (standing.kind !== "waiting" && standing.kind !== "refused") return null;
  return (
    <p className={classes.banner} role="status" data-testid="kept-banner">
      <strong>{standing.kind === "waiting" ? "Kept in this browser." : "Not saved."}</strong> {standing.words}
    </p>
  );
}
