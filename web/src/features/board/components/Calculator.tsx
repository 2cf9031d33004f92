import { Button, TextInput, UnstyledButton } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { typeIntoField } from "../../../answers/typed/inUse";
import { api, ask, type Schemas } from "../../../api/client";
import { Maths } from "../../../shared/Maths";
import { Trouble } from "../../../shared/Trouble";
import classes from "./Margin.module.css";

type Line = { entry: string; found: Schemas["CalculateView"] };

/** Lines of the calculator, kept whatever question is shown, until one signs out. */
const linesQuery = queryOptions({
  queryKey: ["calculator"],
  queryFn: (): Line[] => [],
  initialData: [] as Line[],
  staleTime: Number.POSITIVE_INFINITY,
  gcTime: Number.POSITIVE_INFINITY,
});

type Props = {
  /** An assignment, or a class whose starting point is being done. */
  assignment: string;
  question: number;
  start?: boolean;
};

/** Works out what is typed as in an answer field; `ans` is the last result. */
export function Calculator({ assignment, question, start = false }: Props) {
  const [entry, setEntry] = useState("");
  const queryClient = useQueryClient();
  const lines = useQuery(linesQuery).data;
  const [said, setSaid] = useState("");
  const lastLine = [...lines].reverse().find((l) => l.found.result);
  const last = lastLine?.found.result ?? null;
  const calculate = useMutation({
    mutationFn: (text: string) => {
      const params = { path: { id: assignment } };
      const body = { question, entry: text, last, last_exact: lastLine?.found.exact ?? true };
      return ask(
        start
          ? api.POST("/api/class/{id}/start/calculate", { params, body })
          : api.POST("/api/assignments/{id}/calculate", { params, body }),
      );
    },
    onSuccess: (found, text) => {
      if (found.problem) return;
      queryClient.setQueryData(linesQuery.queryKey, [...lines, { entry: text, found }]);
      setEntry("");
    },
  });
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (entry.trim()) calculate.mutate(entry);
  };
  const use = (result: string) =>
    setSaid(
      typeIntoField(result) ? `${result} was put into the field.` : "Click into an answer field first.",
    );
  const problem = calculate.data?.problem;
  return (
    <div>
      <ol className={classes.lines} aria-label="What was worked out" aria-live="polite">
        {lines.slice(-8).map((line, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines are only ever added at the end
          <li key={i}>
            <UnstyledButton
              onClick={() => setEntry(line.entry)}
              title="Type it again"
              className={classes.again}
            >
              <Maths latex={line.found.reads_as} spoken={line.found.speech} />
            </UnstyledButton>
            <span>
              {line.found.exact ? "=" : "≈"} <strong>{line.found.result}</strong>
              {line.found.near && <span className={classes.dim}> ≈ {line.found.near}</span>}
            </span>
          </li>
        ))}
      </ol>
      <form onSubmit={submit}>
        <TextInput
          label="Calculate"
          description={last ? `ans is ${last}` : "Type as in an answer field, then press Enter"}
          value={entry}
          onChange={(e) => setEntry(e.currentTarget.value)}
          error={problem?.words}
          autoComplete="off"
          spellCheck={false}
          data-testid="calculator"
        />
      </form>
      {calculate.error && <Trouble error={calculate.error} />}
      {last && (
        <Button
          size="sm"
          variant="default"
          mt={8}
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => use(last)}
        >
          Put {last} into the field
        </Button>
      )}
      <p className={classes.dim} aria-live="polite">
        {said}
      </p>
    </div>
  );
}
