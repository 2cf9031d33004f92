import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { LooseQuestion } from "../board/components/LooseQuestion";
import type { Given } from "../board/keeper";
import { clockOf } from "./queries";
import classes from "./Recordings.module.css";

type Props = {
  recording: string;
  stop: Schemas["StopView"];
  /** Before the names of its fields, where another question is on the page too. */
  prefix: string;
  onAnswered: (watched: Schemas["WatchedView"]) => void | Promise<void>;
};

/** The questions of a stop, one after the other; then it goes on. */
export function StopQuestions({ recording, stop, prefix, onAnswered }: Props) {
  const [nth, setNth] = useState(stop.answered);
  const head = useRef<HTMLHeadingElement>(null);
  const path = { params: { path: { id: recording, stop: stop.id } } };
  const shown = useQuery({
    queryKey: ["stop", recording, stop.id, nth],
    queryFn: () =>
      ask(api.POST("/api/recordings/{id}/stops/{stop}", { ...path, body: { question: nth, parts: [] } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  useEffect(() => head.current?.focus(), []);
  const asked = shown.data !== undefined;
  // Where it stands in a window of its own, all of it that fits is moved into sight.
  useEffect(() => {
    if (asked) head.current?.parentElement?.scrollIntoView({ block: "nearest" });
  }, [asked]);
  const answer = useMutation({
    mutationFn: (parts: { id: string; response: Given }[]) =>
      ask(api.POST("/api/recordings/{id}/stops/{stop}", { ...path, body: { question: nth, parts } })),
  });
  const source = JSON.stringify({ from: "stop", recording, stop: stop.id, question: nth });
  const reader = useMemo(
    () => ({
      key: source,
      read: (part: string, entry: string) =>
        ask(api.POST("/api/loose/read", { body: { source: JSON.parse(source), part, entry } })),
    }),
    [source],
  );
  const view = answer.data ?? shown.data;
  const last = nth + 1 >= stop.questions;
  return (
    <section className={classes.halt} aria-label={`Stop at ${clockOf(stop.at)}`}>
      <h2 ref={head} tabIndex={-1}>
        Stop at {clockOf(stop.at)}
        {stop.questions > 1 && `, question ${nth + 1} of ${stop.questions}`}
      </h2>
      {shown.error && <Trouble error={shown.error} />}
      {!view && !shown.error && <Skeleton height={120} aria-label="Loading the question" />}
      {view?.passed_over && <p>{view.passed_over}</p>}
      {view?.question && (
        <ReadFrom.Provider value={reader}>
          <LooseQuestion
            key={nth}
            assignment={recording}
            question={view.question}
            prefix={prefix}
            pending={answer.isPending}
            onCheck={(parts) => answer.mutate(parts)}
            action="Answer"
          />
        </ReadFrom.Provider>
      )}
      {answer.error && <Trouble error={answer.error} />}
      {view?.judged && (
        <p>
          {!view.right && !view.passed_over && "You can answer again, or go back and listen once more. "}
          <Button
            size="sm"
            variant={view.right || view.passed_over ? "filled" : "default"}
            onClick={() => {
              const { watched } = view;
              answer.reset();
              if (last) void onAnswered(watched);
              else setNth(nth + 1);
            }}
          >
            {last ? "Continue" : "Next question"}
          </Button>
        </p>
      )}
    </section>
  );
}
