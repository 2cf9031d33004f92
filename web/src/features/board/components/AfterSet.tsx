import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { api, ask, type Schemas } from "../../../api/client";
import { Trouble } from "../../../shared/Trouble";
import { takeUpdate } from "../queries";
import { Working } from "./HelpPanel";
import classes from "./QuestionSheet.module.css";

type Props = { board: Schemas["BoardView"]; question: Schemas["QuestionView"] };

/** What can be done once a set is over: its working, and fresh numbers. */
export function AfterSet({ board, question }: Props) {
  const queryClient = useQueryClient();
  const fresh = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/assignments/{id}/questions/{question}/fresh-numbers", {
          params: { path: { id: board.id, question: question.question } },
        }),
      ),
    onSuccess: (update) => {
      takeUpdate(queryClient, board.id, update);
      // The button is gone with its set: the focus goes to the first field of the new one.
      const first = update.question.parts[0]?.id ?? "";
      window.setTimeout(
        () => document.querySelector<HTMLElement>(`input[data-part="${first}"]`)?.focus(),
        50,
      );
    },
  });
  if (!question.set_over || !board.checks) return null;
  const full = question.points_so_far != null && question.points_so_far >= question.points;
  return (
    <section
      className={classes.after}
      aria-label={`After Set ${question.set} of question ${question.question + 1}`}
    >
      {!question.all_right && (
        <p>
          {question.tries_left === 0
            ? `No tries are left on Set ${question.set}.`
            : `Set ${question.set} is over.`}{" "}
          Look at the working, then take fresh numbers: a right answer there earns full points.
        </p>
      )}
      <div className={classes.working}>
        <h2>The working</h2>
        <Working board={board} question={question} />
      </div>
      {fresh.error && <Trouble error={fresh.error} />}
      {board.is_open &&
        (question.fresh_refusal == null ? (
          <p>
            <Button
              variant={full ? "default" : "filled"}
              loading={fresh.isPending}
              onClick={() => !fresh.isPending && fresh.mutate()}
            >
              Fresh numbers
            </Button>{" "}
            {full && "You keep your points, whatever happens."}
          </p>
        ) : (
          <p className={classes.dim}>{question.fresh_refusal}</p>
        ))}
    </section>
  );
}
