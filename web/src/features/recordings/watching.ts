import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, Failure, type Schemas } from "../../api/client";

type Recording = Schemas["RecordingToWatch"];
type Watched = Schemas["WatchedView"];
type Did = Schemas["WatchDid"];

/** A stretch that was played is told this often, in milliseconds. */
const TOLD_EVERY = 5_000;

/**
 * Tells the server what is played, and asks it how far one may go. Whatever the browser claims, what it gives back is what
 * counts; it stands with the recording, so that what is opened anew, or elsewhere in the window, goes on from there.
 */
export function useWatching({ id, watched }: Recording) {
  const queryClient = useQueryClient();
  const setWatched = useCallback(
    (now: Watched) =>
      queryClient.setQueriesData<Recording>({ queryKey: ["recording"] }, (of) =>
        of?.id === id ? { ...of, watched: now } : of,
      ),
    [queryClient, id],
  );
  const [trouble, setTrouble] = useState<Error | null>(null);
  /** Where the stretch began that was not told yet. */
  const since = useRef<number | null>(null);
  /** The server did not answer the last time: what was played since then waits to be told. */
  const away = useRef(false);
  const queue = useRef<Promise<unknown>>(Promise.resolve());
  const send = useCallback(
    (from: number, to: number, did?: Did) => {
      // One after the other, so that a later claim never comes before an earlier one.
      const told = queue.current.then(() =>
        ask(
          api.POST("/api/recordings/{id}/played", {
            params: { path: { id } },
            body: { from, to, ...(did ? { did } : {}) },
            keepalive: did === "left",
          }),
        ),
      );
      queue.current = told.catch(() => undefined);
      return told.then(
        (now) => {
          setWatched(now);
          setTrouble(null);
          away.current = false;
          return now;
        },
        (error) => {
          const failure = error instanceof Failure ? error : new Failure(null, String(error), 0);
          setTrouble(failure);
          away.current = failure.status === 0 || failure.status >= 500;
          return null;
        },
      );
    },
    [id, setWatched],
  );
  const tell = useCallback(
    (to: number, did?: Did) => {
      const from = since.current;
      if (from === null || to < from) return Promise.resolve(null);
      since.current = to;
      return send(from, to, did).then((now) => {
        if (!now && away.current) since.current = Math.min(since.current ?? from, from);
        return now;
      });
    },
    [send],
  );
  return { watched, setWatched, trouble, since, away, tell, send, every: TOLD_EVERY };
}

/** Does something as the page goes away. */
export function useLeaving(leave: () => void) {
  const now = useRef(leave);
  now.current = leave;
  useEffect(() => {
    const go = () => now.current();
    window.addEventListener("pagehide", go);
    return () => {
      window.removeEventListener("pagehide", go);
      go();
    };
  }, []);
}
