import { type PointerEvent, useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import type { Schemas } from "../../api/client";
import classes from "./Exhibits.module.css";
import { ExhibitText } from "./ExhibitText";

type Exhibit = Schemas["ExhibitView"];

/** Heights, in parts of the screen: a strip, half of it, nearly all. */
const heights = [0.14, 0.5, 0.86];

/** On a phone: a sheet that is pulled up from below, with a tab for each document that is open. */
export function Sheet({ exhibits, onClose }: { exhibits: Exhibit[]; onClose: (id: string) => void }) {
  const [step, setStep] = useState(1);
  const [pulled, setPulled] = useState<number | null>(null);
  const [shown, setShown] = useState(exhibits.at(-1)?.id ?? "");
  const start = useRef(0);
  const height = `${(pulled ?? heights[step] ?? 0.5) * 100}dvh`;
  useEffect(() => {
    // The page can be scrolled up from behind it.
    document.body.style.paddingBottom = height;
    return () => {
      document.body.style.paddingBottom = "";
    };
  }, [height]);
  const now = exhibits.find((e) => e.id === shown) ?? exhibits[0];
  if (!now) return null;
  const onPull = (e: PointerEvent<HTMLButtonElement>) => {
    if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const at = 1 - e.clientY / window.innerHeight;
    if (pulled !== null || Math.abs(e.clientY - start.current) > 6)
      setPulled(Math.min(0.9, Math.max(0.1, at)));
  };
  const onEnd = () => {
    if (pulled === null) return;
    const near = (h: number) => Math.abs(h - pulled);
    setStep(heights.reduce((best, h, i) => (near(h) < near(heights[best] ?? 0.5) ? i : best), 0));
    // The press that ends a pull is no press of its own.
    window.setTimeout(() => setPulled(null), 0);
  };
  return createPortal(
    <section className={classes.sheet} style={{ height }} aria-label="Open documents" data-testid="sheet">
      <button
        type="button"
        className={classes.handle}
        aria-label={step < 2 ? "Pull the sheet up" : "Push the sheet down"}
        onPointerDown={(e) => {
          start.current = e.clientY;
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={onPull}
        onPointerUp={onEnd}
        onClick={() => pulled === null && setStep((step + 1) % heights.length)}
      >
        <svg viewBox="0 0 24 6" width="24" height="6" aria-hidden="true">
          <path d="M1 1h22M1 5h22" stroke="currentColor" strokeWidth="1.5" />
        </svg>
      </button>
      {exhibits.length > 1 && (
        <fieldset className={classes.tabs} aria-label="Which document">
          {exhibits.map((e) => (
            <button key={e.id} type="button" aria-pressed={e.id === now.id} onClick={() => setShown(e.id)}>
              {e.title}
            </button>
          ))}
        </fieldset>
      )}
      <ExhibitText key={now.id} exhibit={now} onClose={() => onClose(now.id)} other={undefined} />
    </section>,
    document.body,
  );
}
