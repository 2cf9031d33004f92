import { Skeleton } from "@mantine/core";
import { type ComponentProps, lazy, Suspense } from "react";

const Course = lazy(() => import("./Course"));

/** Charts weigh more than the page: they come when they are first looked at. */
export function LazyCourse(props: ComponentProps<typeof Course>) {
  return (
    <Suspense fallback={<Skeleton height={140} aria-label="Loading the chart" />}>
      <Course {...props} />
    </Suspense>
  );
}
