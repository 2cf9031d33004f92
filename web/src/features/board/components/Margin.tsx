import { Tabs, UnstyledButton } from "@mantine/core";
import type { Schemas } from "../../../api/client";
import { Maths } from "../../../shared/Maths";
import { clock } from "../../../shared/when";
import classes from "./Margin.module.css";
import { verdictWords } from "./Verdict";

type Props = {
  open: boolean;
  onToggle: () => void;
  tab: string | null;
  onTab: (tab: string | null) => void;
  question: Schemas["QuestionView"];
};

/** Beside the question: help with typing, and every try. */
export function Margin({ open, onToggle, tab, onTab, question }: Props) {
  return (
    <aside className={classes.margin} data-open={open} aria-label="Margin">
      <UnstyledButton className={classes.fold} onClick={onToggle} aria-expanded={open}>
        {open ? "Fold the margin" : "Help and tries"}
      </UnstyledButton>
      {open && (
        <Tabs value={tab} onChange={onTab} color="moss">
          <Tabs.List>
            <Tabs.Tab value="help">Help</Tabs.Tab>
            <Tabs.Tab value="tries">Tries ({question.tries.length})</Tabs.Tab>
          </Tabs.List>
          <Tabs.Panel value="help" pt="md">
            <TypingGuide />
          </Tabs.Panel>
          <Tabs.Panel value="tries" pt="md">
            <Tries question={question} />
          </Tabs.Panel>
        </Tabs>
      )}
    </aside>
  );
}

const guide = [
  ["3/4", "\\frac{3}{4}"],
  ["2x + 1", "2x + 1"],
  ["x^2", "x^{2}"],
  ["sqrt(2)", "\\sqrt{2}"],
  ["(x+1)/(2x)", "\\frac{x+1}{2x}"],
  ["2pi r", "2\\pi r"],
  ["sin(30°)", "\\sin(30^{\\circ})"],
  ["1.5*10^3", "1.5 \\times 10^{3}"],
] as const;

function TypingGuide() {
  return (
    <>
      <h3 className={classes.head}>Typing guide</h3>
      <p>Type as on a calculator. Under the field stands how it was read.</p>
      <table className={classes.guide}>
        <thead>
          <tr>
            <th>You type</th>
            <th>It reads as</th>
          </tr>
        </thead>
        <tbody>
          {guide.map(([typed, latex]) => (
            <tr key={typed}>
              <td>
                <code>{typed}</code>
              </td>
              <td>
                <Maths latex={latex} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>Use a point for decimals. What can't be read never costs a try.</p>
    </>
  );
}

function Tries({ question }: { question: Schemas["QuestionView"] }) {
  if (question.tries.length === 0) {
    return <p>Every time you check an answer it is noted here, with its verdict.</p>;
  }
  return (
    <ol className={classes.tries}>
      {question.tries.map((t, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: tries are only ever added at the end
        <li key={i}>
          <p className={classes.dim}>
            {clock(t.at)}
            {t.used_a_try ? "" : " · cost no try"}
          </p>
          {t.parts.map((p) => (
            <p key={p.id}>
              {question.parts.length > 1 && <>({p.id}) </>}
              <TryEntry question={question} id={p.id} verdict={p.verdict} />{" "}
              <strong>{verdictWords[p.verdict.outcome]}</strong>
            </p>
          ))}
        </li>
      ))}
    </ol>
  );
}

type TryEntryProps = { question: Schemas["QuestionView"]; id: string; verdict: Schemas["VerdictView"] };

function TryEntry({ question, id, verdict }: TryEntryProps) {
  if (verdict.reads_as) return <Maths latex={verdict.reads_as} spoken={verdict.speech} />;
  if (typeof verdict.response === "string") return <code>{verdict.response}</code>;
  const part = question.parts.find((p) => p.id === id);
  const order = part?.entry.type === "choice" ? part.entry.choices.map((c) => c.id) : [];
  const letters = verdict.response.map((c) => String.fromCharCode(65 + order.indexOf(c))).sort();
  return <span>Choice {letters.join(", ")}</span>;
}
