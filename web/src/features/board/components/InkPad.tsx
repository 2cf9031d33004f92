import { Button } from "@mantine/core";
import { getStroke } from "perfect-freehand";
import { type PointerEvent, useRef, useState } from "react";
import type { Ink } from "../workings";
import classes from "./Workings.module.css";

type Props = { ink: Ink; onStroke: (stroke: number[][]) => void; onChange: (ink: Ink) => void };

export const width = 300;
export const height = 220;

/** The outline of a stroke as an SVG path. */
export function outline(points: number[][], size = 3): string {
  const edge = getStroke(points, { size, thinning: 0.5, smoothing: 0.5, streamline: 0.4 });
  const [first, ...rest] = edge;
  if (!first) return "";
  return `M${first[0]} ${first[1]} ${rest.map((p) => `L${p[0]} ${p[1]}`).join(" ")} Z`;
}

/** A place to draw with mouse, finger or pen. */
export function InkPad({ ink, onStroke, onChange }: Props) {
  const [stroke, setStroke] = useState<number[][]>([]);
  const drawing = useRef<number[][] | null>(null);
  const point = (e: PointerEvent<SVGSVGElement>): number[] => {
    const box = e.currentTarget.getBoundingClientRect();
    const round = (n: number) => Math.round(n * 10) / 10;
    return [
      round(((e.clientX - box.left) / box.width) * width),
      round(((e.clientY - box.top) / box.height) * height),
      round(e.pressure || 0.5),
    ];
  };
  const end = () => {
    if (drawing.current) onStroke(drawing.current);
    drawing.current = null;
    setStroke([]);
  };
  return (
    <div className={classes.ink}>
      <span className={classes.label} id="ink-label">
        Ink
      </span>
      {/* biome-ignore lint/a11y/noSvgWithoutTitle: named by the label above */}
      <svg
        viewBox={`0 0 ${width} ${height}`}
        role="img"
        aria-labelledby="ink-label"
        data-testid="ink"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drawing.current = [point(e)];
          setStroke(drawing.current);
        }}
        onPointerMove={(e) => {
          if (!drawing.current) return;
          if (e.buttons === 0) return end();
          drawing.current = [...drawing.current, point(e)];
          setStroke(drawing.current);
        }}
        onPointerUp={end}
        onPointerCancel={end}
      >
        {ink.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: strokes are only ever added or taken off at the end
          <path key={i} d={outline(s)} />
        ))}
        {stroke.length > 0 && <path d={outline(stroke)} />}
      </svg>
      <div>
        <Button
          size="compact-sm"
          variant="subtle"
          disabled={ink.length === 0}
          onClick={() => onChange(ink.slice(0, -1))}
        >
          Undo the last stroke
        </Button>
        <Button size="compact-sm" variant="subtle" disabled={ink.length === 0} onClick={() => onChange([])}>
          Clear
        </Button>
      </div>
    </div>
  );
}
