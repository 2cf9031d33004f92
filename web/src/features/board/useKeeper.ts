import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useSyncExternalStore } from "react";
import { emptyOf } from "../../answers";
import type { Schemas } from "../../api/client";
import { Keeper } from "./keeper";
import { boardQuery } from "./queries";

/** The keeper of a board's fields, for as long as the board is open. */
export function useKeeper(board: Schemas["BoardView"], person: string) {
  const queryClient = useQueryClient();
  const keeper = useMemo(
    () =>
      new Keeper(board.id, person, (question, stone) =>
        queryClient.setQueryData(
          boardQuery(board.id).queryKey,
          (old) =>
            old && {
              ...old,
              questions: old.questions.map((q) => (q.question === question ? { ...q, stone } : q)),
            },
        ),
      ),
    [board.id, person, queryClient],
  );
  for (const q of board.questions) {
    for (const part of q.parts) {
      keeper.load(
        { question: q.question, set: q.set_number, part: part.id },
        part.draft,
        emptyOf(part.entry),
      );
    }
  }
  useSyncExternalStore(keeper.subscribe, keeper.snapshot);
  useEffect(() => {
    window.addEventListener("pagehide", keeper.leave);
    return () => {
      window.removeEventListener("pagehide", keeper.leave);
      void keeper.flush();
    };
  }, [keeper]);
  return keeper;
}
