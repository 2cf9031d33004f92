import classes from "./Told.module.css";

/** Whether one member of an answer is right: by shape, by colour and in words. */
export function Told({ right, words }: { right: boolean; words?: string }) {
  const said = words ?? (right ? "right" : "not right");
  return (
    <span className={classes.told} data-right={right} title={said}>
      <svg viewBox="0 0 22 22" width="16" height="16" aria-hidden="true">
        <path
          d={right ? "M4 11l5 5 9-11" : "M5 16L17 6"}
          fill="none"
          stroke="currentColor"
          strokeWidth="2.8"
          strokeLinecap="round"
        />
      </svg>
      <span className="only-spoken"> {said}</span>
    </span>
  );
}
