import { Button, Skeleton } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useMemo, useState } from "react";
import { ReadFrom } from "../../answers/typed/ReadsAs";
import { api, ask } from "../../api/client";
import { Steps } from "../../shared/Steps";
import { Trouble } from "../../shared/Trouble";
import { LooseQuestion } from "../board/components/LooseQuestion";
import classes from "./LooseSheet.module.css";
import { checkLoose, type Entered, looseQuery, type Source } from "./queries";
import { RightAnswers } from "./RightAnswers";

type Props = {
  source: Source;
  /** Before the names of its fields. */
  prefix: string;
  /** One check ends it: the answer and the working are shown at once. */
  once: boolean;
  /** What comes after it has ended, and whether it was right. */
  after: (right: boolean) => ReactNode;
  onEnd?: (right: boolean) => void;
  /** The answer can be shown before anything was tried; what the button for it says. */
  show?: string;
};

/** A question outside every record. */
export function LooseSheet({ source, prefix, once, after, onEnd, show }: Props) {
  const shown = useQuery(looseQuery(source));
  const [entered, setEntered] = useState<Entered>([]);
  const check = useMutation({
    mutationFn: ({ parts, show }: { parts: Entered; show: boolean }) => checkLoose(source, parts, show),
    onSuccess: (answer) => {
      if (answer.answers.length > 0 || answer.right) onEnd?.(answer.right);
    },
  });
  const key = JSON.stringify(source);
  const reader = useMemo(
    () => ({
      key,
      read: (part: string, entry: string) =>
        ask(api.POST("/api/loose/read", { body: { source: JSON.parse(key) as Source, part, entry } })),
    }),
    [key],
  );
  if (shown.error) return <Trouble error={shown.error} />;
  const view = check.data ?? shown.data;
  if (!view) return <Skeleton height={180} aria-label="Loading the question" />;
  const ended = view.answers.length > 0 || view.right;
  const incomplete = check.data && !view.judged && !ended && entered.length < view.question.parts.length;
  return (
    <div>
      <ReadFrom.Provider value={reader}>
        <LooseQuestion
          assignment=""
          question={view.question}
          prefix={prefix}
          pending={check.isPending}
          closed={ended}
          onCheck={(parts) => {
            setEntered(parts);
            check.mutate({ parts, show: once });
          }}
        />
      </ReadFrom.Provider>
      {check.error && <Trouble error={check.error} />}
      {incomplete && <p className={classes.dim}>Fill in every part, then check again.</p>}
      {(view.judged || show) && !ended && (
        <div className={classes.buttons}>
          <Button
            size="sm"
            variant="default"
            loading={check.isPending}
            onClick={() => check.mutate({ parts: view.judged ? entered : [], show: true })}
          >
            {show ?? "Show the answer"}
          </Button>
        </div>
      )}
      {ended && (
        <section className={classes.ended} aria-label="The answer">
          {!view.right && <RightAnswers answers={view.answers} parts={view.question.parts} />}
          {view.question.help.working && (
            <div className={classes.working}>
              <h2>The working</h2>
              <Steps steps={view.question.help.working} />
            </div>
          )}
          {after(view.right)}
        </section>
      )}
    </div>
  );
}
