import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, isRefused, type Schemas } from "../../api/client";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import { workingsQuery } from "./queries";

export type Ink = number[][][];
type Kept = { notes: string; ink: Ink; revision: number };
type Workings = Schemas["WorkingsView"];

export type Notes = Kept & {
  pictures: Workings["pictures"];
  /** Empty while all is kept. */
  trouble: string;
  /** What another window wrote meanwhile. */
  elsewhere: Workings | null;
  change: (to: Partial<Pick<Kept, "notes" | "ink">>) => void;
  addStroke: (stroke: number[][]) => void;
  settle: (mine: boolean) => void;
  reload: () => void;
};

const PAUSE = 500;

/** Notes and ink of a question, kept on the server within a second, and in this browser until it has them. */
export function useWorkings(id: string, question: number, person: string): Notes | null {
  const queryClient = useQueryClient();
  const loaded = useQuery(workingsQuery(id, question));
  const spare = `green-slate/${person}/${id}/${question}/workings`;
  const [kept, setKept] = useState<Kept | null>(null);
  const [elsewhere, setElsewhere] = useState<Workings | null>(null);
  const [trouble, setTrouble] = useState("");
  const newest = useRef<Kept | null>(null);
  const dirty = useRef(false);
  const saving = useRef(false);
  const timer = useRef(0);

  const save = useCallback(async () => {
    const sent = newest.current;
    if (!sent || !dirty.current || saving.current) return;
    saving.current = true;
    try {
      const answer = await ask(
        api.PUT("/api/assignments/{id}/questions/{question}/workings", {
          params: { path: { id, question } },
          body: { based_on: sent.revision, notes: sent.notes, ink: sent.ink },
        }),
      );
      saving.current = false;
      if (answer.type === "elsewhere") {
        const place = { params: { path: { id, question } } };
        setElsewhere(await ask(api.GET("/api/assignments/{id}/questions/{question}/workings", place)));
        return;
      }
      const now = newest.current ?? sent;
      dirty.current = now.notes !== sent.notes || now.ink !== sent.ink;
      newest.current = { ...now, revision: answer.revision };
      setKept(newest.current);
      setTrouble("");
      if (dirty.current) timer.current = window.setTimeout(() => void save(), 0);
      else dropSpare(spare);
    } catch (error) {
      saving.current = false;
      setTrouble(error instanceof Error ? error.message : String(error));
      if (!isRefused(error)) timer.current = window.setTimeout(() => void save(), 2_000);
    }
  }, [id, question, spare]);

  const write = useCallback(
    (next: Kept) => {
      newest.current = next;
      dirty.current = true;
      setKept(next);
      holdSpare(spare, next);
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => void save(), PAUSE);
    },
    [save, spare],
  );

  useEffect(() => {
    if (!loaded.data || newest.current) return;
    const { notes, revision } = loaded.data;
    const ink = loaded.data.ink as Ink;
    newest.current = { notes, ink, revision };
    setKept(newest.current);
    const mine = findSpare<Kept>(spare);
    if (!mine) return;
    if (mine.revision === revision) write(mine);
    else {
      newest.current = mine;
      setKept(mine);
      setElsewhere(loaded.data);
    }
  }, [loaded.data, spare, write]);

  // Going to another question or page, or leaving: what waits is sent at once.
  useEffect(() => {
    const leave = () => {
      window.clearTimeout(timer.current);
      void save();
    };
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [save]);

  if (!kept || !loaded.data) return null;
  return {
    ...kept,
    pictures: loaded.data.pictures,
    trouble,
    elsewhere,
    addStroke: (stroke) =>
      newest.current && write({ ...newest.current, ink: [...newest.current.ink, stroke] }),
    change: (to) => newest.current && write({ ...newest.current, ...to }),
    settle: (mine) => {
      if (!elsewhere || !newest.current) return;
      const theirs = { notes: elsewhere.notes, ink: elsewhere.ink as Ink, revision: elsewhere.revision };
      setElsewhere(null);
      if (mine) {
        write({ ...newest.current, revision: elsewhere.revision });
      } else {
        newest.current = theirs;
        dirty.current = false;
        dropSpare(spare);
        setKept(theirs);
      }
    },
    reload: () => void queryClient.invalidateQueries({ queryKey: workingsQuery(id, question).queryKey }),
  };
}
