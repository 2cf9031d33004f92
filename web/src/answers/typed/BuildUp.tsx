import { lazy, Suspense, useState } from "react";
import classes from "./Field.module.css";

const Built = lazy(() => import("./Built"));

type Props = {
  assignment: string;
  question: number;
  /** As it is read: the part, or the part and the gap in use. */
  part: string;
  label: string;
  entry: string;
  onChange: (entry: string) => void;
};

/** Changes between typing and building up; what stands in the field is kept either way. */
export function BuildUp(props: Props) {
  const [building, setBuilding] = useState(false);
  return (
    <>
      <button
        type="button"
        className={classes.build}
        aria-expanded={building}
        onClick={() => setBuilding(!building)}
      >
        {building ? "Plain typing" : "Equation keyboard"}
      </button>
      {building && (
        <Suspense fallback={<p>One moment…</p>}>
          {/* Each gap or cell is built up by itself. */}
          <Built key={`${props.part} ${props.label}`} {...props} />
        </Suspense>
      )}
    </>
  );
}
