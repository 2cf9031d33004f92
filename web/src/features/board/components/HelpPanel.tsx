import { Accordion, Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../../api/client";
import { Asking } from "../../../shared/Asking";
import { Prose } from "../../../shared/Prose";
import { Steps } from "../../../shared/Steps";
import { Trouble } from "../../../shared/Trouble";
import { TypingGuide } from "../../../shared/TypingGuide";
import { BesidePage } from "../../reading/BesidePage";
import { sheetQuery, takeUpdate } from "../queries";
import { Calculator } from "./Calculator";
import { FormulaSheet } from "./FormulaSheet";
import classes from "./Margin.module.css";
import { WorkedExample } from "./WorkedExample";

type Props = { board: Schemas["BoardView"]; question: Schemas["QuestionView"] };

/** Hints, a worked example, the working, and the tools. */
export function HelpPanel({
  board,
  question,
  opened,
  onOpen,
}: Props & { opened: string | null; onOpen: (section: string | null) => void }) {
  const { help } = question;
  const sheet = useQuery({ ...sheetQuery(board.id), enabled: board.tools.formula_sheet });
  const hasHints = help.hints.length + help.hints_left > 0;
  return (
    <Accordion value={opened} onChange={onOpen} chevronPosition="left" className={classes.help}>
      {hasHints && (
        <Section name="hints" title={`Hints (${help.hints.length} taken, ${help.hints_left} left)`}>
          <Hints board={board} question={question} />
        </Section>
      )}
      {help.has_example && (
        <Section name="example" title="Worked example">
          {opened === "example" && <WorkedExample board={board} question={question} />}
        </Section>
      )}
      <Section name="working" title="The working">
        <Working board={board} question={question} />
      </Section>
      {question.reading.map((page) => (
        <Section key={page.skill} name={`read-${page.skill}`} title={`Reading: ${page.title}`}>
          {opened === `read-${page.skill}` && <BesidePage skill={page.skill} />}
        </Section>
      ))}
      {question.calculator && (
        <Section name="calculator" title="Calculator">
          <Calculator assignment={board.id} question={question.question} />
        </Section>
      )}
      {sheet.data && (
        <Section name="formulas" title="Formula sheet">
          <FormulaSheet sheet={sheet.data} />
        </Section>
      )}
      {board.tools.typing_guide && (
        <Section name="guide" title="Typing guide">
          {opened === "guide" && <TypingGuide />}
        </Section>
      )}
    </Accordion>
  );
}

function Section({ name, title, children }: { name: string; title: string; children: React.ReactNode }) {
  return (
    <Accordion.Item value={name}>
      <Accordion.Control>{title}</Accordion.Control>
      <Accordion.Panel>{children}</Accordion.Panel>
    </Accordion.Item>
  );
}

function Hints({ board, question }: Props) {
  const queryClient = useQueryClient();
  const { help } = question;
  const take = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/assignments/{id}/questions/{question}/hint", {
          params: { path: { id: board.id, question: question.question } },
        }),
      ),
    onSuccess: (update) => takeUpdate(queryClient, board.id, update),
  });
  const cost =
    help.hint_cost > 0
      ? `It takes ${help.hint_cost} % off what you earn on this set after it. What you have earned stays.`
      : "A hint costs nothing.";
  return (
    <div aria-live="polite">
      <ol className={classes.hints}>
        {help.hints.map((hint, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: hints are only ever added at the end
          <li key={i}>
            <Prose blocks={hint} />
          </li>
        ))}
      </ol>
      {take.error && <Trouble error={take.error} />}
      {help.hints_left > 0 && board.is_open && !question.set_over && (
        <>
          <p className={classes.dim}>{cost}</p>
          <Button size="sm" variant="default" loading={take.isPending} onClick={() => take.mutate()}>
            {help.hints.length === 0 ? "Take a hint" : "Show the next hint"}
          </Button>
        </>
      )}
      {help.hints_left === 0 && <p className={classes.dim}>There are no more hints.</p>}
    </div>
  );
}

/** The full working of this set: shown at once where it is, else with what it costs or why it waits. */
export function Working({ board, question }: Props) {
  const queryClient = useQueryClient();
  const [asking, setAsking] = useState(false);
  const { help } = question;
  const show = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/assignments/{id}/questions/{question}/working", {
          params: { path: { id: board.id, question: question.question } },
        }),
      ),
    onSuccess: (update) => {
      setAsking(false);
      takeUpdate(queryClient, board.id, update);
    },
  });
  if (help.working) return <Steps steps={help.working} focus={show.isSuccess} />;
  if (help.working_refusal) return <p className={classes.dim}>{help.working_refusal}</p>;
  if (!board.is_open) return <p className={classes.dim}>{board.closed_because}</p>;
  return (
    <div>
      {show.error && <Trouble error={show.error} />}
      <Button
        size="sm"
        variant="default"
        loading={show.isPending}
        onClick={() => (help.working_ends_set ? setAsking(true) : show.mutate())}
      >
        Show the working
      </Button>
      <Asking
        opened={asking}
        title="This ends the set"
        confirm={`Show it and end Set ${question.set}`}
        leave="Keep working"
        pending={show.isPending}
        onConfirm={() => show.mutate()}
        onLeave={() => setAsking(false)}
      >
        <p>
          Showing the working ends Set {question.set}: it can't be checked after that. What you have earned
          stays, and fresh numbers start a new set.
        </p>
      </Asking>
    </div>
  );
}
