import type { Schemas } from "../../api/client";
import { stateWords } from "../../shared/states";
import { percent } from "../../shared/when";
import classes from "./Sheet.module.css";

/** Where one student stands in one assignment: its state in words, the score, and what it took. */
export function SheetCell({ cell }: { cell: Schemas["SheetCellView"] }) {
  const score =
    cell.recorded != null
      ? percent(cell.recorded)
      : cell.so_far != null && cell.so_far > 0
        ? `${percent(cell.so_far)} so far`
        : "";
  const marks = [cell.waiting && "waits for you", cell.below_pass && "below pass", cell.late && "late"];
  const closed = cell.state === "closed_nothing_handed_in";
  return (
    <span className={classes.inside}>
      <span className={classes.line}>
        <span data-state={cell.state}>{closed ? "Nothing handed in" : stateWords[cell.state]}</span>
        <b>{score}</b>
      </span>
      <span className={classes.marks}>{marks.filter(Boolean).join(" · ")}</span>
      {(cell.tries > 0 || cell.minutes > 0) && (
        <span className={classes.due}>
          {cell.tries} {cell.tries === 1 ? "try" : "tries"}, {cell.minutes} min
        </span>
      )}
    </span>
  );
}
