import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, isRefused, type Schemas } from "../../api/client";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import type { Mark } from "./InkLayer";

type Ink = { revision: number; marks: Mark[] };
type All = Record<number, Ink>;

const PAUSE = 500;
const NOTHING: Ink = { revision: 0, marks: [] };

export type PaperInk = {
  marks: (question: number) => Mark[];
  change: (question: number, marks: Mark[]) => void;
  /** Empty while all is kept. */
  trouble: string;
  saved: boolean;
  /** The question on which another window wrote meanwhile. */
  elsewhere: Schemas["PaperInkView"] | null;
  settle: (mine: boolean) => void;
};

/** What is written on a paper copy: kept on the server within a second, and in this browser until it has it. */
export function usePaperInk(id: string, person: string, loaded: Schemas["PaperInkView"][]): PaperInk {
  const spare = `green-slate/${person}/${id}/paper`;
  const [all, setAll] = useState<All>(() => {
    const kept: All = Object.fromEntries(
      loaded.map((i) => [i.question, { revision: i.revision, marks: i.marks }]),
    );
    return { ...kept, ...findSpare<All>(spare) };
  });
  const newest = useRef(all);
  const dirty = useRef(new Set(Object.keys(findSpare<All>(spare) ?? {}).map(Number)));
  const [waiting, setWaiting] = useState(dirty.current.size > 0);
  const saving = useRef(false);
  const timer = useRef(0);
  const [trouble, setTrouble] = useState("");
  const [elsewhere, setElsewhere] = useState<Schemas["PaperInkView"] | null>(null);
  const put = useCallback((question: number, ink: Ink) => {
    newest.current = { ...newest.current, [question]: ink };
    setAll(newest.current);
  }, []);
  const hold = useCallback(() => {
    const left = Object.fromEntries([...dirty.current].map((q) => [q, newest.current[q]]));
    if (dirty.current.size > 0) holdSpare(spare, left);
    else dropSpare(spare);
    setWaiting(dirty.current.size > 0);
  }, [spare]);

  const save = useCallback(async () => {
    const question = [...dirty.current][0];
    const sent = question === undefined ? undefined : newest.current[question];
    if (question === undefined || !sent || saving.current) return;
    saving.current = true;
    try {
      const answer = await ask(
        api.PUT("/api/assignments/{id}/paper/{question}", {
          params: { path: { id, question } },
          body: { based_on: sent.revision, marks: sent.marks },
        }),
      );
      saving.current = false;
      if (answer.type === "elsewhere") {
        const paper = await ask(api.GET("/api/assignments/{id}/paper", { params: { path: { id } } }));
        return setElsewhere(paper.ink.find((i) => i.question === question) ?? null);
      }
      const now = newest.current[question] ?? sent;
      if (now.marks === sent.marks) dirty.current.delete(question);
      put(question, { ...now, revision: answer.revision });
      hold();
      setTrouble("");
      if (dirty.current.size > 0) timer.current = window.setTimeout(() => void save(), 0);
    } catch (error) {
      saving.current = false;
      setTrouble(error instanceof Error ? error.message : String(error));
      if (!isRefused(error)) timer.current = window.setTimeout(() => void save(), 2_000);
    }
  }, [id, put, hold]);

  const write = useCallback(
    (question: number, ink: Ink) => {
      put(question, ink);
      dirty.current.add(question);
      hold();
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(() => void save(), PAUSE);
    },
    [put, hold, save],
  );
  // What waited in this browser goes at once; and what waits when the page is left.
  useEffect(() => {
    void save();
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

  return {
    marks: (question) => (all[question] ?? NOTHING).marks,
    change: (question, marks) => write(question, { ...(newest.current[question] ?? NOTHING), marks }),
    trouble,
    saved: !waiting,
    elsewhere,
    settle: (mine) => {
      if (!elsewhere) return;
      const { question, revision, marks } = elsewhere;
      setElsewhere(null);
      if (mine) return write(question, { marks: newest.current[question]?.marks ?? [], revision });
      dirty.current.delete(question);
      put(question, { revision, marks });
      hold();
      void save();
    },
  };
}
