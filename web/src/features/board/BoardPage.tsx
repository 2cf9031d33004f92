import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useCallback, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { NotHere } from "../../app/Dead";
import { Frame } from "../../app/Frame";
import { Asking } from "../../shared/Asking";
import { isEditable, singleKeysOn } from "../../shared/keys";
import { ShortcutList } from "../../shared/ShortcutList";
import { Trouble } from "../../shared/Trouble";
import { BesideRoom } from "../exhibits/Exhibits";
import { meQuery } from "../sign-in/queries";
import classes from "./BoardPage.module.css";
import { KeptBanner } from "./components/KeptBanner";
import { Ledge } from "./components/Ledge";
import { Margin } from "./components/Margin";
import { QuestionSheet } from "./components/QuestionSheet";
import sheetClasses from "./components/QuestionSheet.module.css";
import { SavedState } from "./components/SavedState";
import { TimeLeft } from "./components/TimeLeft";
import { boardQuery, takeUpdate } from "./queries";
import { useKeeper } from "./useKeeper";

type Board = Schemas["BoardView"] & { clockAhead: number };

const tabs = ["help", "workings", "tries"];

export function BoardPage() {
  const { id, number } = useParams({ from: "/signed-in/work/$id/question/$number" });
  const board = useQuery(boardQuery(id));
  const me = useQuery(meQuery());
  if (board.data && me.data) {
    const count = board.data.questions.length;
    if (count === 0) return <NotHere />;
    const asked = Math.min(Math.max(Math.trunc(Number(number)) || 1, 1), count);
    return <OpenBoard key={id} board={board.data} number={asked} person={me.data.user_name} />;
  }
  return (
    <Frame trail={[{ label: "Board" }]}>
      {board.error ? (
        <Trouble heading="This assignment" error={board.error}>
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

/** Tells the server once a minute that someone is here, so that time spent can be shown. */
function usePresence(board: Board, question: number) {
  useEffect(() => {
    if (!board.is_open) return;
    const tell = () => {
      if (document.visibilityState === "visible") {
        void api
          .POST("/api/assignments/{id}/here", { params: { path: { id: board.id }, query: { question } } })
          .catch(() => undefined);
      }
    };
    tell();
    const timer = window.setInterval(tell, 60_000);
    return () => window.clearInterval(timer);
  }, [board.id, board.is_open, question]);
}

type OpenProps = { board: Board; number: number; person: string };

function OpenBoard({ board, number, person }: OpenProps) {
  const keeper = useKeeper(board, person);
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  usePresence(board, number - 1);
  const [marginOpen, setMarginOpen] = useState(window.innerWidth >= 1100);
  const [tab, setTab] = useState<string | null>("help");
  const [help, setHelp] = useState<string | null>("hints");
  const [listing, setListing] = useState(false);
  const count = board.questions.length;
  const current = board.questions[number - 1];
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
      // In a field or an editor single keys and arrows are the writer's own.
      const writing = isEditable(e.target);
      const tabOf = e.altKey ? tabs[Number(e.key) - 1] : undefined;
      if (e.altKey && !writing && e.key === "ArrowLeft") go(number - 1);
      else if (e.altKey && !writing && e.key === "ArrowRight") go(number + 1);
      else if (e.altKey && e.key.toLowerCase() === "p") void putAside();
      else if (tabOf) {
        setMarginOpen(true);
        setTab(tabOf);
      } else if (e.key === "?" && !writing && singleKeysOn()) setListing(true);
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [go, number, putAside]);
  const onTimeUp = () => {
    // What is still on its way was typed in time; then the server says how it ended.
    void keeper
      .flush()
      .then(() => queryClient.invalidateQueries({ queryKey: boardQuery(board.id).queryKey }));
  };
  if (!current) return null;
  return (
    <Frame
      wide
      trail={[{ label: board.title, to: `/work/${board.id}` }, { label: `Question ${current.question + 1}` }]}
      saved={
        <>
          {board.time_ends && board.is_open && (
            <TimeLeft ends={board.time_ends} clockAhead={board.clockAhead} onEnd={onTimeUp} />
          )}
          <SavedState standing={keeper.standing} />
        </>
      }
    >
      <KeptBanner standing={keeper.standing} />
      {!board.is_open && <Ended board={board} />}
      <div className={classes.columns}>
        <div className={classes.main}>
          <BesideRoom>
            {current.locked ? (
              <Locked board={board} question={current} onGo={go} />
            ) : (
              <WithMoveOn board={board} question={current} onGo={go} flush={() => keeper.flush()}>
                {(onMoveOn) => (
                  <QuestionSheet
                    key={`${current.question}/${current.set_number}`}
                    board={board}
                    question={current}
                    keeper={keeper}
                    onMoveOn={onMoveOn}
                    onHelp={(section) => {
                      setMarginOpen(true);
                      setTab("help");
                      setHelp(section);
                    }}
                  />
                )}
              </WithMoveOn>
            )}
          </BesideRoom>
        </div>
        <Margin
          open={marginOpen}
          onToggle={() => setMarginOpen((o) => !o)}
          tab={tab}
          onTab={setTab}
          help={help}
          onHelp={setHelp}
          board={board}
          question={current}
          person={person}
        />
      </div>
      <Ledge board={board} current={current.question} onGo={go} onPutAside={putAside} keeper={keeper} />
      <ShortcutList opened={listing} onClose={() => setListing(false)} />
    </Frame>
  );
}

/** Why nothing can be added any more, and where it goes on. */
function Ended({ board }: { board: Board }) {
  return (
    <p className={classes.ended} role="status" data-testid="ended">
      {board.closed_because}{" "}
      <Link to="/work/$id/result" params={{ id: board.id }}>
        See the result
      </Link>
    </p>
  );
}

type LockedProps = { board: Board; question: Schemas["QuestionView"]; onGo: (n: number) => void };

function Locked({ board, question, onGo }: LockedProps) {
  return (
    <article>
      <h1>Question {question.question + 1}</h1>
      <p className={sheetClasses.locked}>{question.locked}</p>
      <Button onClick={() => onGo(board.reached + 1)}>To question {board.reached + 1}</Button>
    </article>
  );
}

type MoveOnProps = {
  board: Board;
  question: Schemas["QuestionView"];
  onGo: (n: number) => void;
  flush: () => Promise<void>;
  children: (onMoveOn: (() => void) | undefined) => React.ReactNode;
};

/** In linear mode: the way on to the next question, asked for once where there is no way back. */
function WithMoveOn({ board, question, onGo, flush, children }: MoveOnProps) {
  const queryClient = useQueryClient();
  const [asking, setAsking] = useState(false);
  const next = question.question + 1;
  const move = useMutation({
    mutationFn: async () => {
      await flush();
      return ask(
        api.POST("/api/assignments/{id}/move-on", {
          params: { path: { id: board.id } },
          body: { to: next },
        }),
      );
    },
    onSuccess: async (update) => {
      setAsking(false);
      takeUpdate(queryClient, board.id, update);
      await queryClient.invalidateQueries({ queryKey: boardQuery(board.id).queryKey });
      onGo(next + 1);
    },
  });
  const possible =
    board.linear && board.is_open && question.question === board.reached && next < board.questions.length;
  const start = () => (board.going_back ? move.mutate() : setAsking(true));
  return (
    <>
      {children(possible ? start : undefined)}
      {move.error && <Trouble error={move.error} />}
      <Asking
        opened={asking && possible}
        title="You can’t go back"
        confirm="Continue"
        leave="Stay here"
        pending={move.isPending}
        onConfirm={() => move.mutate()}
        onLeave={() => setAsking(false)}
      >
        <p>There is no going back to question {question.question + 1}. What stands there is kept.</p>
      </Asking>
    </>
  );
}
