import { Button, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Maths } from "../../shared/Maths";
import { Line } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import { percent } from "../../shared/when";
import { threadQuery } from "./queries";
import classes from "./Threads.module.css";

type Props = {
  id: string;
  doubt: Schemas["DoubtView"];
  hidden: boolean;
  settled: string | null | undefined;
};

/** A queried mark: the key, how it was decided, and what accepting the entry would do, before it is done. */
export function Doubt({ id, doubt, hidden, settled }: Props) {
  const queryClient = useQueryClient();
  const [word, setWord] = useState("");
  const settle = useMutation({
    mutationFn: (how: Schemas["Settle"]) =>
      ask(api.PUT("/api/threads/{id}", { params: { path: { id } }, body: { hidden, settle: how, word } })),
    onSuccess: (now) => {
      setWord("");
      queryClient.setQueryData(threadQuery(id).queryKey, now);
    },
  });
  const all = doubt.for_all;
  return (
    <section className={classes.about} aria-label="The mark">
      <h2>The mark</h2>
      {doubt.answers.map((a) => (
        <p key={a.part}>
          Key of ({a.part}):{" "}
          {a.latex ? (
            <Maths latex={a.latex} spoken={a.speech} />
          ) : (
            a.choices.map((c, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: choices never change places
              <span key={i}>
                {i > 0 && ", "}
                <Line content={c} />
              </span>
            ))
          )}
        </p>
      ))}
      {doubt.decided.map((d) => (
        <p key={d}>{d}</p>
      ))}
      {settled == null && (
        <p>
          {doubt.corrected ? (
            "The key has been corrected since, and the entry marked again with it."
          ) : (
            <>
              Is the key itself wrong?{" "}
              <Link to="/bank/$slug/edit" params={{ slug: doubt.bank }}>
                Correct it in the bank
              </Link>
              , where you see whose scores would change.
            </>
          )}
        </p>
      )}
      {all.length > 0 && (
        <>
          <p>Accepting it would change:</p>
          <ul data-testid="changes">
            {all.map((c) => (
              <li key={c.student}>
                {c.student}: {percent(c.before)} to {percent(c.after)}
              </li>
            ))}
          </ul>
        </>
      )}
      {settled == null && (
        <>
          <Textarea
            label="Comment (optional)"
            autosize
            minRows={2}
            maxLength={4000}
            value={word}
            onChange={(e) => setWord(e.currentTarget.value)}
          />
          <div className={classes.actions} style={{ marginTop: 10 }}>
            <Button
              size="sm"
              variant="default"
              loading={settle.isPending}
              onClick={() => settle.mutate("stands")}
            >
              The mark stands
            </Button>
            {doubt.corrected && (
              <Button
                size="sm"
                variant="default"
                loading={settle.isPending}
                onClick={() => settle.mutate("key_corrected")}
              >
                Settled by the new key
              </Button>
            )}
            {doubt.for_student.length > 0 && (
              <Button
                size="sm"
                variant="default"
                loading={settle.isPending}
                onClick={() => settle.mutate("accept_for_student")}
              >
                Accept it for this student
              </Button>
            )}
            {all.length > 1 && (
              <Button
                size="sm"
                variant="default"
                loading={settle.isPending}
                onClick={() => settle.mutate("accept_for_all")}
              >
                Accept it for all {all.length}
              </Button>
            )}
          </div>
        </>
      )}
      {settle.error && <Trouble error={settle.error} />}
    </section>
  );
}
