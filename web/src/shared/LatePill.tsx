import classes from "./LatePill.module.css";

/** That something came or will come late, as a word with its own shape. */
export function LatePill({ children = "Late" }: { children?: string }) {
  return <span className={classes.late}>{children}</span>;
}
