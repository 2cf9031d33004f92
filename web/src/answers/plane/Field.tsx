import { type KeyboardEvent, type PointerEvent, useId, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Figure } from "../../shared/Figure";
import type { FieldProps } from "../kinds";
import { Told } from "../Told";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";
import { pathOf, shadeOf, type XY } from "./shapes";

type Plot = Schemas["PlotView"];
type PlaneObject = Schemas["ObjectView"];

const number = (text: string | undefined) => {
  const t = (text ?? "").trim().replace(/−/g, "-");
  if (t === "") return null;
  const [above, below] = t.split("/");
  const n = below === undefined ? Number(t) : Number(above) / Number(below);
  return Number.isFinite(n) ? n : null;
};

/** What each point of an object is called. */
const pointNames: Record<string, string[]> = {
  point: ["at"],
  line: ["first point", "second point"],
  segment: ["one end", "other end"],
  circle: ["centre", "point on the circle"],
  parabola: ["vertex", "another point"],
  half_plane: ["first point of the edge", "second point of the edge", "a point inside"],
  interval: ["from", "to"],
};

/** Objects on a plane or a number line: set by pressing, moved by dragging or arrow keys, or typed; all stay in step. */
export default function Field(props: FieldProps<"plane">) {
  const { part, name = part, entry, value, disabled, onChange } = props;
  const objects = value && typeof value === "object" && "objects" in value ? value.objects : {};
  const { x, y, snap, drawing } = entry;
  const svg = useRef<SVGSVGElement>(null);
  const clip = useId();
  const held = useRef<[string, number] | null>(null);
  const pointsOf = (o: PlaneObject): string[][] => objects[o.id]?.points ?? [];
  const isSet = (o: PlaneObject, n: number) => {
    const p = pointsOf(o)[n];
    return number(p?.[0]) !== null && number(p?.[1]) !== null;
  };
  const unset = entry.objects.find((o) => Array.from({ length: o.points }).some((_, n) => !isSet(o, n)));
  const [chosen, setChosen] = useState<string | null>(null);
  const now = entry.objects.find((o) => o.id === chosen && o === unset) ?? unset;
  const toPixel = ([px, py]: XY): XY => [
    x.at_from + ((px - x.from) / (x.to - x.from)) * (x.at_to - x.at_from),
    y
      ? y.at_from + ((py - y.from) / (y.to - y.from)) * (y.at_to - y.at_from)
      : x.at_from && drawing.height * (52 / 88),
  ];
  const snapped = (v: number, from: number, to: number) => {
    const steps = Math.round((Math.min(Math.max(v, from), to) - from) / snap);
    return Number((from + steps * snap).toFixed(6));
  };
  const fromPointer = (e: PointerEvent): XY => {
    const box = svg.current?.getBoundingClientRect();
    if (!box) return [0, 0];
    const px = ((e.clientX - box.left) / box.width) * drawing.width;
    const py = ((e.clientY - box.top) / box.height) * drawing.height;
    const vx = x.from + ((px - x.at_from) / (x.at_to - x.at_from)) * (x.to - x.from);
    const vy = y ? y.from + ((py - y.at_from) / (y.at_to - y.at_from)) * (y.to - y.from) : 0;
    return [snapped(vx, x.from, x.to), y ? snapped(vy, y.from, y.to) : 0];
  };
  const put = (id: string, change: (plot: Plot) => Plot) => {
    const all = { ...objects, [id]: change(objects[id] ?? { points: [] }) };
    const ids = Object.keys(all).sort();
    onChange({ objects: Object.fromEntries(ids.map((k) => [k, all[k] ?? { points: [] }])) });
  };
  const setPoint = (o: PlaneObject, n: number, to: [string, string]) =>
    put(o.id, (plot) => {
      const points = Array.from({ length: o.points }, (_, k) => plot.points[k] ?? ["", ""]);
      points[n] = to;
      const known = points.map((p, k) => [
        o.fixed_x[k] === undefined ? (p[0] ?? "") : String(o.fixed_x[k]),
        p[1] ?? "",
      ]);
      const open =
        o.kind === "half_plane"
          ? [plot.open?.[0] ?? false]
          : o.kind === "interval"
            ? [plot.open?.[0] ?? false, plot.open?.[1] ?? false]
            : undefined;
      const flat = y ? known : known.map((p) => [p[0] ?? "", p[0] ? "0" : ""]);
      return open ? { points: flat, open } : { points: flat };
    });
  const setAt = (o: PlaneObject, n: number, [vx, vy]: XY) =>
    setPoint(o, n, [String(o.fixed_x[n] ?? vx), String(vy)]);
  const setOpen = (o: PlaneObject, n: number, on: boolean) =>
    put(o.id, (plot) => {
      const open = [...(plot.open ?? (o.kind === "half_plane" ? [false] : [false, false]))];
      open[n] = on;
      return { points: plot.points, open };
    });
  const press = (e: PointerEvent) => {
    if (disabled || !now) return;
    const at = fromPointer(e);
    let n = Array.from({ length: now.points }).findIndex((_, k) => !isSet(now, k));
    if (now.fixed_x.length > 0) {
      // The point of the sketch that is nearest to where it was pressed.
      const off = now.fixed_x.map((fx) => Math.abs(fx - at[0]));
      n = off.indexOf(Math.min(...off));
    }
    if (n >= 0) setAt(now, n, at);
  };
  const move = (e: PointerEvent) => {
    // Moving without a button: it was released where nobody told this page.
    if (e.buttons === 0) held.current = null;
    const [id, n] = held.current ?? [];
    const o = entry.objects.find((k) => k.id === id);
    if (o && n !== undefined) setAt(o, n, fromPointer(e));
  };
  const onKey = (e: KeyboardEvent, o: PlaneObject, n: number, at: XY) => {
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (!step || disabled) return;
    e.preventDefault();
    const to: XY = [
      snapped(at[0] + (step[0] ?? 0) * snap, x.from, x.to),
      y ? snapped(at[1] + (step[1] ?? 0) * snap, y.from, y.to) : 0,
    ];
    setAt(o, n, to);
  };
  const told = (id: string) => {
    const member = props.members.find((m) => m.id === id);
    return member && <Told right={member.right} />;
  };
  const edges = {
    x: [x.from, x.to] as XY,
    y: (y ? [y.from, y.to] : [0, 0]) as XY,
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: objects on a plane are no form fields with a legend
    <div role="group" aria-label={y ? "Plane" : "Number line"} data-part={name}>
      {!disabled && (
        <p className={tiles.hint}>
          {now
            ? `Press on the ${y ? "plane" : "line"} to set ${now.label}; drag a point to move it, or type its numbers.`
            : "Everything is set. Drag a point to move it, or type its numbers."}
        </p>
      )}
      <div className={classes.area}>
        <div className={classes.sheet} style={{ maxWidth: drawing.width }}>
          <Figure drawing={drawing} />
          <svg
            ref={svg}
            className={classes.over}
            viewBox={`0 0 ${drawing.width} ${drawing.height}`}
            data-testid="plane"
            onPointerDown={press}
            onPointerMove={move}
            onPointerUp={() => {
              held.current = null;
            }}
            onPointerLeave={() => {
              held.current = null;
            }}
          >
            <title>{y ? "Plane to set objects on" : "Number line to set objects on"}</title>
            {y && (
              <clipPath id={clip}>
                <rect x={x.at_from} y={y.at_to} width={x.at_to - x.at_from} height={y.at_from - y.at_to} />
              </clipPath>
            )}
            {entry.objects.map((o) => {
              const set = pointsOf(o).map((p) => [number(p[0]), number(p[1])] as const);
              const points = set.flatMap(([a, b]) => (a === null || b === null ? [] : [[a, b] as XY]));
              const whole = points.length === o.points;
              const open = objects[o.id]?.open ?? [];
              const last = points.at(-1);
              return (
                <g key={o.id}>
                  <g clipPath={y ? `url(#${clip})` : undefined}>
                    {whole && o.kind === "half_plane" && (
                      <path className={classes.shade} d={shadeOf(points, edges, toPixel)} />
                    )}
                    {whole && (
                      <path
                        className={classes.stroke}
                        data-dashed={o.kind === "half_plane" && open[0] === true}
                        d={pathOf(o.kind, points, edges, toPixel)}
                      />
                    )}
                  </g>
                  {set.map(([a, b], n) => {
                    if (a === null || b === null) return null;
                    const [cx, cy] = toPixel([a, b]);
                    return (
                      // biome-ignore lint/a11y/useSemanticElements: a point on a plane is no range input
                      <g
                        // biome-ignore lint/suspicious/noArrayIndexKey: points of an object keep their places
                        key={n}
                        className={classes.point}
                        role="slider"
                        aria-label={`${o.label}, ${pointNames[o.kind]?.[n] ?? `point ${n + 1}`}`}
                        aria-valuenow={a}
                        aria-valuetext={y ? `(${a}, ${b})` : String(a)}
                        aria-disabled={disabled}
                        tabIndex={disabled ? -1 : 0}
                        data-point={`${o.id}/${n}`}
                        onKeyDown={(e) => onKey(e, o, n, [a, b])}
                        onPointerDown={(e) => {
                          if (disabled) return;
                          e.stopPropagation();
                          held.current = [o.id, n];
                        }}
                      >
                        <circle className={classes.reach} cx={cx} cy={cy} r={15} />
                        <circle
                          className={classes.handle}
                          data-open={o.kind === "interval" && open[n] === true}
                          cx={cx}
                          cy={cy}
                          r={7}
                        />
                      </g>
                    );
                  })}
                  {last && (
                    <text className={classes.name} x={toPixel(last)[0] + 11} y={toPixel(last)[1] - 10}>
                      {o.label}
                    </text>
                  )}
                </g>
              );
            })}
          </svg>
        </div>
        <div className={classes.list}>
          {entry.objects.map((o) => (
            <fieldset
              key={o.id}
              className={classes.object}
              data-now={now === o && !disabled}
              onFocus={() => setChosen(o.id)}
            >
              <legend>
                {o.label}
                {told(o.id)}
              </legend>
              {Array.from({ length: o.points }, (_, n) => {
                const p = pointsOf(o)[n] ?? ["", ""];
                const what = pointNames[o.kind]?.[n] ?? `at x = ${o.fixed_x[n]}`;
                const box = (k: 0 | 1, axis: string) => (
                  <input
                    aria-label={`${o.label}, ${what}, ${axis}`}
                    value={k === 0 && o.fixed_x[n] !== undefined ? String(o.fixed_x[n]) : (p[k] ?? "")}
                    disabled={disabled || (k === 0 && o.fixed_x[n] !== undefined)}
                    data-number={`${o.id}/${n}/${k}`}
                    inputMode="text"
                    autoComplete="off"
                    maxLength={40}
                    onChange={(e) => {
                      const to: [string, string] = [p[0] ?? "", p[1] ?? ""];
                      to[k] = e.currentTarget.value;
                      setPoint(o, n, to);
                    }}
                  />
                );
                return (
                  // biome-ignore lint/suspicious/noArrayIndexKey: points of an object keep their places
                  <div key={n} className={classes.row}>
                    {y ? (
                      <>
                        ({box(0, "x")}, {box(1, "y")})
                      </>
                    ) : (
                      <>
                        {o.points > 1 && <span>{what}</span>} {box(0, "number")}
                      </>
                    )}
                    {o.kind === "interval" && (
                      <label>
                        <input
                          type="checkbox"
                          checked={objects[o.id]?.open?.[n] ?? false}
                          disabled={disabled}
                          data-open={`${o.id}/${n}`}
                          onChange={(e) => setOpen(o, n, e.currentTarget.checked)}
                        />
                        not included
                      </label>
                    )}
                  </div>
                );
              })}
              {o.kind === "half_plane" && (
                <div className={classes.row}>
                  <label>
                    <input
                      type="checkbox"
                      checked={objects[o.id]?.open?.[0] ?? false}
                      disabled={disabled}
                      data-open={`${o.id}/0`}
                      onChange={(e) => setOpen(o, 0, e.currentTarget.checked)}
                    />
                    edge not included
                  </label>
                </div>
              )}
            </fieldset>
          ))}
        </div>
      </div>
    </div>
  );
}
