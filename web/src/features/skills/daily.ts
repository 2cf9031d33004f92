import type { Schemas } from "../../api/client";

type Point = Schemas["CoursePoint"];

/** The last point of each day, the oldest first: what several checks within a day do to a score is no course. */
export function daily(course: Point[]): Point[] {
  const days = new Map<string, Point>();
  for (const point of course) days.set(new Date(point.at).toDateString(), point);
  return [...days.values()];
}
