import { type PointerEvent, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { outline } from "../board/components/InkPad";
import { WIDE } from "./Pages";
import classes from "./Paper.module.css";

export type Mark = Schemas["PaperMark"];
export type Tool = "pen" | "text" | "eraser";

/** Strokes are drawn ten times as large as they are, which is what their outline is made for. */
const SCALE = 10;
const LINE = 5;
/** Of a pen, in millimetres. */
const PEN = 0.6;

type Props = {
  label: string;
  block: number;
  /** In millimetres. */
  tall: number;
  marks: Mark[];
  /** Nothing can be written without one. */
  tool?: Tool | undefined;
  onAdd?: (mark: Mark) => void;
  onDrop?: (marks: Mark[]) => void;
};

const near = (mark: Mark, x: number, y: number) =>
  mark.kind === "stroke"
    ? mark.points.some(([px = 0, py = 0]) => Math.hypot(px - x, py - y) < 3)
    : Math.abs(mark.y - 1 - y) < LINE && x > mark.x - 2 && x < mark.x + mark.text.length * 2.4 + 2;

/** What is written on a piece of a paper copy, and a place to write. */
export function InkLayer({ label, block, tall, marks, tool, onAdd, onDrop }: Props) {
  const ours = marks.filter((m) => m.block === block);
  const [stroke, setStroke] = useState<number[][]>([]);
  const drawing = useRef<number[][] | null>(null);
  const [typing, setTyping] = useState<[number, number] | null>(null);
  const at = (e: PointerEvent<SVGSVGElement>): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const round = (n: number) => Math.round(n * 10) / 10;
    return [
      round(((e.clientX - box.left) / box.width) * WIDE),
      round(((e.clientY - box.top) / box.height) * tall),
    ];
  };
  const erase = (x: number, y: number) => {
    const hit = ours.filter((m) => near(m, x, y));
    if (hit.length > 0) onDrop?.(hit);
  };
  const down = (e: PointerEvent<SVGSVGElement>) => {
    if (!tool) return;
    const [x, y] = at(e);
    if (tool === "text") {
      e.preventDefault();
      setTyping([x, y]);
      return;
    }
    e.currentTarget.setPointerCapture(e.pointerId);
    drawing.current = [[x, y, e.pressure || 0.5]];
    if (tool === "eraser") erase(x, y);
    else setStroke(drawing.current);
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    if (!drawing.current) return;
    // Moving without a button: it was lifted where nobody told this page.
    if (e.buttons === 0) return up();
    const [x, y] = at(e);
    if (tool === "eraser") return erase(x, y);
    drawing.current = [...drawing.current, [x, y, Math.round((e.pressure || 0.5) * 100) / 100]];
    setStroke(drawing.current);
  };
  const up = () => {
    if (drawing.current && tool === "pen") onAdd?.({ kind: "stroke", block, points: drawing.current });
    drawing.current = null;
    setStroke([]);
  };
  const put = (text: string) => {
    if (typing && text.trim() !== "") {
      onAdd?.({ kind: "text", block, x: typing[0], y: typing[1], text: text.trim() });
    }
    setTyping(null);
  };
  const path = (points: number[][]) =>
    outline(
      points.map(([x = 0, y = 0, p = 0.5]) => [x * SCALE, y * SCALE, p]),
      PEN * SCALE,
    );
  return (
    <>
      <svg
        className={classes.inkLayer}
        viewBox={`0 0 ${WIDE * SCALE} ${Math.max(tall, 1) * SCALE}`}
        preserveAspectRatio="none"
        role="img"
        aria-label={label}
        data-tool={tool}
        data-block={block}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={up}
      >
        {ours.map((m, i) =>
          m.kind === "stroke" ? (
            // biome-ignore lint/suspicious/noArrayIndexKey: marks have no name of their own
            <path key={i} d={path(m.points)} />
          ) : (
            // biome-ignore lint/suspicious/noArrayIndexKey: marks have no name of their own
            <text key={i} x={m.x * SCALE} y={m.y * SCALE} fontSize={4.4 * SCALE}>
              {m.text}
            </text>
          ),
        )}
        {stroke.length > 0 && <path d={path(stroke)} />}
      </svg>
      {typing && (
        <input
          className={classes.inkText}
          style={{
            left: `${(typing[0] / WIDE) * 100}%`,
            top: `calc(${(typing[1] / Math.max(tall, 1)) * 100}% - 6mm)`,
          }}
          aria-label="Text on the paper"
          maxLength={2000}
          // biome-ignore lint/a11y/noAutofocus: it was pressed for just now
          autoFocus
          onBlur={(e) => put(e.currentTarget.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") put(e.currentTarget.value);
            if (e.key === "Escape") setTyping(null);
          }}
        />
      )}
    </>
  );
}
