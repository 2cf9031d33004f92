export type Place = {
  look: "folded" | "beside" | "window";
  /** Of a window: from the left and the top, and its size, in pixels. */
  x?: number;
  y?: number;
  width?: number;
  height?: number;
};
export type Places = Record<string, Place>;

const key = (place: string) => `green-slate/exhibits/${place}`;

/** What was open, and where it was put, in this browser window. */
export function findPlaces(place: string): Places {
  try {
    return JSON.parse(sessionStorage.getItem(key(place)) ?? "{}") as Places;
  } catch {
    return {};
  }
}

export function holdPlaces(place: string, places: Places) {
  try {
    sessionStorage.setItem(key(place), JSON.stringify(places));
  } catch {
    // Without room it is only forgotten where a window stood.
  }
}

export const isPhone = () => window.innerWidth < 700;

/** Inside the screen, so that a window can always be reached. */
export function inside(x: number, y: number, width: number): { x: number; y: number } {
  const most = (n: number, to: number) => Math.round(Math.min(Math.max(n, 8), Math.max(8, to)));
  return { x: most(x, window.innerWidth - Math.min(width, 160)), y: most(y, window.innerHeight - 80) };
}
