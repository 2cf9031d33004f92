import { useMutation } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, Failure } from "../../api/client";
import type { Given } from "../board/keeper";

type Entered = { id: string; response: Given }[];

/** A pause in typing after which it is kept. */
const pause = 400;

/** Keeps what stands in the fields of a run's question, so that closing the window does not lose it. */
export function useEntered(run: string, number: number) {
  const path = { params: { path: { id: run } } };
  const keep = useMutation({
    mutationFn: (parts: Entered) =>
      ask(api.PUT("/api/practice/{id}/entered", { ...path, body: { number, parts } })),
    retry: (count, error) =>
      !(error instanceof Failure && error.status > 0 && error.status < 500) && count < 50,
    retryDelay: 2_000,
  });
  const waiting = useRef<Entered | null>(null);
  const timer = useRef(0);
  const { mutate } = keep;
  const flush = useCallback(() => {
    window.clearTimeout(timer.current);
    if (waiting.current) mutate(waiting.current);
    waiting.current = null;
    setTyping(false);
  }, [mutate]);
  const [typing, setTyping] = useState(false);
  const enter = useCallback(
    (parts: Entered) => {
      waiting.current = parts;
      setTyping(true);
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(flush, pause);
    },
    [flush],
  );
  useEffect(() => {
    // A request that outlives the page.
    const leave = () => {
      if (!waiting.current) return;
      const body = { number, parts: waiting.current };
      waiting.current = null;
      void api.PUT("/api/practice/{id}/entered", { params: { path: { id: run } }, body, keepalive: true });
    };
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, [run, number]);
  const forget = useCallback(() => {
    window.clearTimeout(timer.current);
    waiting.current = null;
    setTyping(false);
  }, []);
  return {
    enter,
    forget,
    saved: !typing && !keep.isPending,
    failing: keep.failureCount > 0 && keep.isPending,
  };
}
