import { Button, Loader } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../../api/client";
import { Prose } from "../../../shared/Prose";
import { Trouble } from "../../../shared/Trouble";
import type { Given } from "../keeper";
import { exampleQuery } from "../queries";
import { LooseQuestion } from "./LooseQuestion";
import classes from "./Margin.module.css";

type Props = { board: Schemas["BoardView"]; question: Schemas["QuestionView"] };

/** A similar question with numbers of its own, its steps opened one by one, and one to try at the end. */
export function WorkedExample({ board, question }: Props) {
  const example = useQuery(exampleQuery(board.id, question.question));
  const [open, setOpen] = useState(0);
  if (example.error) return <Trouble error={example.error} />;
  if (!example.data) return <Loader size="sm" aria-label="Loading the example" />;
  const { text, parts, steps } = example.data;
  return (
    <div data-testid="worked-example">
      <p className={classes.dim}>A similar question with other numbers. It costs nothing.</p>
      <Prose blocks={text} />
      {parts.map((part) => part.prompt.length > 0 && <Prose key={part.id} blocks={part.prompt} />)}
      <ol className={classes.hints} aria-live="polite">
        {steps.slice(0, open).map((step, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: steps are only ever opened in order
          <li key={i}>
            <Prose blocks={step} />
          </li>
        ))}
      </ol>
      {open < steps.length ? (
        <Button size="sm" variant="default" onClick={() => setOpen(open + 1)}>
          {open === 0 ? "Show the first step" : `Open step ${open + 1} of ${steps.length}`}
        </Button>
      ) : (
        <TryIt board={board} question={question} first={example.data.try_it} />
      )}
    </div>
  );
}

function TryIt({ board, question, first }: Props & { first: Schemas["QuestionView"] }) {
  const [round, setRound] = useState(0);
  const attempt = useMutation({
    mutationFn: (given: { round: number; parts: { id: string; response: Given }[] }) =>
      ask(
        api.POST("/api/assignments/{id}/questions/{question}/example/try", {
          params: { path: { id: board.id, question: question.question } },
          body: given,
        }),
      ),
  });
  const another = () => {
    setRound(round + 1);
    attempt.mutate({ round: round + 1, parts: [] });
  };
  const shown = attempt.data ?? first;
  return (
    <section className={classes.tryIt} aria-label="One to try">
      <h3 className={classes.head}>One to try</h3>
      <p className={classes.dim}>New numbers again. It is checked, but nothing is recorded.</p>
      {attempt.error && <Trouble error={attempt.error} />}
      <LooseQuestion
        key={round}
        assignment={board.id}
        question={shown}
        prefix="try-"
        pending={attempt.isPending}
        onCheck={(parts) => attempt.mutate({ round, parts })}
      />
      <Button size="sm" mt={10} variant="subtle" onClick={another}>
        Another one
      </Button>
    </section>
  );
}
