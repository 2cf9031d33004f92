import { Tabs, UnstyledButton } from "@mantine/core";
import type { Schemas } from "../../../api/client";
import { HelpPanel } from "./HelpPanel";
import classes from "./Margin.module.css";
import { TriesPanel } from "./TriesPanel";
import { WorkingsPanel } from "./WorkingsPanel";

type Props = {
  open: boolean;
  onToggle: () => void;
  tab: string | null;
  onTab: (tab: string | null) => void;
  board: Schemas["BoardView"];
  question: Schemas["QuestionView"];
  person: string;
  /** The section of the help that is open. */
  help: string | null;
  onHelp: (section: string | null) => void;
};

/** Beside the question: help, workings, and every try. */
export function Margin({ open, onToggle, tab, onTab, board, question, person, help, onHelp }: Props) {
  const tries = question.sets.reduce((sum, s) => sum + s.tries.length, 0);
  const key = `${question.question}/${question.set_number}`;
  return (
    <aside className={classes.margin} data-open={open} aria-label="Margin">
      <UnstyledButton className={classes.fold} onClick={onToggle} aria-expanded={open}>
        {open ? "Collapse the margin" : "Help, workings, tries"}
      </UnstyledButton>
      {open && (
        <Tabs value={tab} onChange={onTab} color="moss" keepMounted={false}>
          <Tabs.List>
            <Tabs.Tab value="help">Help</Tabs.Tab>
            <Tabs.Tab value="workings">Workings</Tabs.Tab>
            <Tabs.Tab value="tries">Tries ({tries})</Tabs.Tab>
          </Tabs.List>
          <Tabs.Panel value="help" pt="sm">
            <HelpPanel key={key} board={board} question={question} opened={help} onOpen={onHelp} />
          </Tabs.Panel>
          <Tabs.Panel value="workings" pt="sm">
            <WorkingsPanel key={question.question} board={board} question={question} person={person} />
          </Tabs.Panel>
          <Tabs.Panel value="tries" pt="sm">
            <TriesPanel board={board} question={question} />
          </Tabs.Panel>
        </Tabs>
      )}
    </aside>
  );
}
