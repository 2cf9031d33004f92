import { useEffect, useMemo, useSyncExternalStore } from "react";
import { EnteredKeeper, type Home } from "./entered";

/** The keeper of what stands in the fields of a run's question, for as long as it is shown. */
export function useEntered(home: Home, run: string, number: number, person: string, revision: number) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: the revision counts only as the question is first shown
  const keeper = useMemo(
    () => new EnteredKeeper(home, run, number, person, revision),
    [home, run, number, person],
  );
  const standing = useSyncExternalStore(keeper.subscribe, keeper.snapshot);
  useEffect(() => {
    window.addEventListener("pagehide", keeper.leave);
    return () => {
      window.removeEventListener("pagehide", keeper.leave);
      void keeper.flush();
    };
  }, [keeper]);
  return { keeper, standing };
}
