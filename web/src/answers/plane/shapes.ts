export type XY = [number, number];
type Edges = { x: XY; y: XY };
type ToPixel = (p: XY) => XY;

const path = (points: XY[], toPixel: ToPixel) =>
  points
    .map(
      (p, n) =>
        `${n === 0 ? "M" : "L"}${toPixel(p)
          .map((v) => v.toFixed(1))
          .join(" ")}`,
    )
    .join("");

/** Two points of a line so far out that they lie off the plane. */
function farOut([a, b]: [XY, XY], edges: Edges): [XY, XY] {
  const reach = 3 * Math.max(edges.x[1] - edges.x[0], edges.y[1] - edges.y[0]);
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const length = Math.hypot(dx, dy) || 1;
  const [ux, uy] = [(dx / length) * reach, (dy / length) * reach];
  return [
    [a[0] - ux, a[1] - uy],
    [a[0] + ux, a[1] + uy],
  ];
}

/** A smooth line through points (Catmull and Rom, 1974). */
function through(points: XY[]): XY[] {
  const at = (n: number): XY => points[Math.min(Math.max(n, 0), points.length - 1)] ?? [0, 0];
  const all: XY[] = [];
  for (let n = 0; n < points.length - 1; n += 1) {
    const [p, q, r, s] = [at(n - 1), at(n), at(n + 1), at(n + 2)];
    for (let k = 0; k <= 12; k += 1) {
      const t = k / 12;
      const one = (a: number, b: number, c: number, d: number) =>
        0.5 *
        (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t * t + (3 * b - a - 3 * c + d) * t * t * t);
      all.push([one(p[0], q[0], r[0], s[0]), one(p[1], q[1], r[1], s[1])]);
    }
  }
  return all;
}

/** What an object looks like once all its points are set. */
export function pathOf(kind: string, points: XY[], edges: Edges, toPixel: ToPixel): string {
  const [a, b] = points;
  if (!a) return "";
  if (kind === "sketch") return path(through(points), toPixel);
  if (!b) return "";
  switch (kind) {
    case "line":
    case "half_plane":
      return path(farOut([a, b], edges), toPixel);
    case "circle": {
      const radius = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const rim = Array.from({ length: 73 }, (_, n): XY => {
        const turn = (n / 72) * 2 * Math.PI;
        return [a[0] + radius * Math.cos(turn), a[1] + radius * Math.sin(turn)];
      });
      return path(rim, toPixel);
    }
    case "parabola": {
      if (a[0] === b[0]) return "";
      const bend = (b[1] - a[1]) / (b[0] - a[0]) ** 2;
      const curve = Array.from({ length: 121 }, (_, n): XY => {
        const px = edges.x[0] + (n / 120) * (edges.x[1] - edges.x[0]);
        return [px, a[1] + bend * (px - a[0]) ** 2];
      });
      return path(curve, toPixel);
    }
    default:
      return path([a, b], toPixel);
  }
}

/** The side of an edge on which its third point lies. */
export function shadeOf(points: XY[], edges: Edges, toPixel: ToPixel): string {
  const [a, b, inside] = points;
  if (!a || !b || !inside) return "";
  const [p, q] = farOut([a, b], edges);
  const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
  const side = dx * (inside[1] - p[1]) - dy * (inside[0] - p[0]) > 0 ? 1 : -1;
  const out = (at: XY): XY => [at[0] - dy * side, at[1] + dx * side];
  return `${path([p, q, out(q), out(p)], toPixel)}Z`;
}
