import { Skeleton } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import type { Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./BoardPage.module.css";
import { Ledge } from "./components/Ledge";
import { Margin } from "./components/Margin";
import { QuestionSheet } from "./components/QuestionSheet";
import { SavedState } from "./components/SavedState";
import { ShortcutList } from "./components/ShortcutList";
import { Keeper } from "./keeper";
import { boardQuery } from "./queries";

type Board = Schemas["BoardView"];

export function BoardPage() {
  const { id, number } = useParams({ from: "/signed-in/work/$id/question/$number" });
  const board = useQuery(boardQuery(id));
  if (board.data) return <OpenBoard key={id} board={board.data} number={Number(number)} />;
  return (
    <Frame trail={[{ label: "Board" }]}>
      {board.error ? (
        <Trouble error={board.error}>
          <Link to="/work/$id" params={{ id }}>
            Go to the cover sheet
          </Link>
        </Trouble>
      ) : (
        <Skeleton height={480} aria-label="Loading the board" />
      )}
    </Frame>
  );
}

function useKeeper(board: Board) {
  const queryClient = useQueryClient();
  const keeper = useMemo(
    () =>
      new Keeper(board.id, (question, stone) =>
        queryClient.setQueryData(
          boardQuery(board.id).queryKey,
          (old) =>
            old && {
              ...old,
              questions: old.questions.map((q) => (q.question === question ? { ...q, stone } : q)),
            },
        ),
      ),
    [board.id, queryClient],
  );
  for (const q of board.questions) {
    for (const part of q.parts) {
      const empty = part.entry.type === "choice" ? [] : "";
      keeper.load({ question: q.question, set: q.set_number, part: part.id }, part.draft, empty);
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

function OpenBoard({ board, number }: { board: Board; number: number }) {
  const keeper = useKeeper(board);
  const navigate = useNavigate();
  const [marginOpen, setMarginOpen] = useState(window.innerWidth >= 1100);
  const [tab, setTab] = useState<string | null>("help");
  const [listing, setListing] = useState(false);
  const count = board.questions.length;
  const current = board.questions[Math.min(Math.max(number, 1), count) - 1];
  const go = useCallback(
    (to: number) => {
      if (to >= 1 && to <= count) {
        void navigate({
          to: "/work/$id/question/$number",
          params: { id: board.id, number: String(to) },
        });
      }
    },
    [navigate, board.id, count],
  );
  const putAside = useCallback(async () => {
    await keeper.flush();
    await navigate({ to: "/" });
  }, [keeper, navigate]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input, textarea, select");
      if (e.altKey && e.key === "ArrowLeft") go(number - 1);
      else if (e.altKey && e.key === "ArrowRight") go(number + 1);
      else if (e.altKey && e.key.toLowerCase() === "p") void putAside();
      else if (e.altKey && (e.key === "1" || e.key === "2")) {
        setMarginOpen(true);
        setTab(e.key === "1" ? "help" : "tries");
      } else if (e.key === "?" && !typing) setListing(true);
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [go, number, putAside]);
  if (!current) return null;
  return (
    <Frame
      wide
      trail={[{ label: board.title, to: `/work/${board.id}` }, { label: `Question ${current.question + 1}` }]}
      saved={<SavedState standing={keeper.standing} />}
    >
      <div className={classes.columns}>
        <div className={classes.main}>
          <QuestionSheet key={current.question} board={board} question={current} keeper={keeper} />
        </div>
        <Margin
          open={marginOpen}
          onToggle={() => setMarginOpen((o) => !o)}
          tab={tab}
          onTab={setTab}
          question={current}
        />
      </div>
      <Ledge board={board} current={current.question} onGo={go} onPutAside={putAside} keeper={keeper} />
      <ShortcutList opened={listing} onClose={() => setListing(false)} />
    </Frame>
  );
}
