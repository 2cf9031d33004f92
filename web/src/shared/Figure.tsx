import type { Schemas } from "../api/client";
import classes from "./Figure.module.css";

/** A figure that was drawn from the question's numbers. */
export function Figure({ drawing }: { drawing: Schemas["FigureView"] }) {
  return (
    <div className={classes.figure} style={{ maxWidth: drawing.width }} role="img" aria-label={drawing.alt}>
      {/* The server makes it from numbers and escaped labels. */}
      <div dangerouslySetInnerHTML={{ __html: drawing.svg }} />
    </div>
  );
}
