import { Button, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { percent } from "../../shared/when";
import classes from "./Bank.module.css";
import { correctionQuery } from "./queries";

/** Where an older version is used: whose scores a correction would change, before it is made. */
export function Correction({ slug }: { slug: string }) {
  const queryClient = useQueryClient();
  const plan = useQuery(correctionQuery(slug));
  const [why, setWhy] = useState("");
  const make = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/bank/{slug}/correction", { params: { path: { slug } }, body: { why } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: ["bank"] }),
  });
  if (make.data) {
    return (
      <p role="status" className={classes.picture}>
        Corrected.{" "}
        {make.data.changed === 1 ? "One student’s work is" : `${make.data.changed} students’ works are`}{" "}
        marked differently now, and they are told.
      </p>
    );
  }
  if (plan.error) return <Trouble error={plan.error} />;
  if (!plan.data || plan.data.assignments.length === 0) return null;
  const { assignments, changes } = plan.data;
  return (
    <section className={classes.picture} aria-label="Correction">
      <h2>An older version is in use</h2>
      <p>
        In {assignments.join(", ")}. It stays there, unless you correct it: then the newest version takes its
        place and every answer is marked again.
      </p>
      {changes.length === 0 ? (
        <p>No score would change.</p>
      ) : (
        <>
          <p>These scores would change:</p>
          <ul data-testid="corrections">
            {changes.map((c) => (
              <li key={`${c.student}${c.assignment}`}>
                {c.student}, {c.assignment}: {percent(c.before)} to {percent(c.after)}
              </li>
            ))}
          </ul>
        </>
      )}
      <Textarea
        label="Why"
        description="Kept in the activity log."
        maw={480}
        maxLength={500}
        value={why}
        onChange={(e) => setWhy(e.currentTarget.value)}
      />
      {make.error && <Trouble error={make.error} />}
      <div className={classes.buttons}>
        <Button size="sm" disabled={why.trim() === ""} loading={make.isPending} onClick={() => make.mutate()}>
          Correct it in those assignments
        </Button>
      </div>
    </section>
  );
}
