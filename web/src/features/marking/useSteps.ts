import { useEffect } from "react";

/** Alt and an arrow go from one answer to the next. */
export function useSteps(at: number, count: number, go: (to: number) => void) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!e.altKey) return;
      const to = e.key === "ArrowLeft" ? at - 1 : e.key === "ArrowRight" ? at + 1 : undefined;
      if (to === undefined) return;
      e.preventDefault();
      if (to >= 0 && to < count) go(to);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [at, count, go]);
}
