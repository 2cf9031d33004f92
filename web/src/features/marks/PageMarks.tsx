import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type RefObject, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { MarkLine } from "./MarkLine";
import classes from "./Marks.module.css";
import { pageMarksQuery } from "./queries";
import { type Quote, rangeOf, selectedQuote, sentencesOf, textOf } from "./text";

type Mark = Schemas["MarkView"];

/** Shows what is marked in the text that stands on the page now. */
function useShown(root: RefObject<HTMLElement | null>, marks: Mark[], shown: string) {
  // biome-ignore lint/correctness/useExhaustiveDependencies: other steps are another text
  useEffect(() => {
    if (!("highlights" in CSS) || !root.current) return;
    const ranges: Range[] = [];
    for (const { found } of marks) {
      const block = found && root.current.querySelector(`[data-mark-block="${found.step}/${found.block}"]`);
      const range = block && rangeOf(block, found.start, found.end);
      if (range) ranges.push(range);
    }
    CSS.highlights.set("page-marks", new Highlight(...ranges));
    return () => {
      CSS.highlights.delete("page-marks");
    };
  }, [marks, shown, root]);
}

type Props = { skill: string; shown: string; root: RefObject<HTMLElement | null> };

const none: Mark[] = [];

/** Marks of a page: what is selected becomes one, each has a note, and every sentence can be marked by keyboard. */
export function PageMarks({ skill, shown, root }: Props) {
  const queryClient = useQueryClient();
  const found = useQuery(pageMarksQuery(skill));
  const marks = found.data?.marks ?? none;
  useShown(root, marks, shown);
  const [selected, setSelected] = useState<Quote | null>(null);
  const [added, setAdded] = useState<string | null>(null);
  useEffect(() => {
    const look = () => setSelected(selectedQuote());
    document.addEventListener("selectionchange", look);
    return () => document.removeEventListener("selectionchange", look);
  }, []);
  const add = useMutation({
    mutationFn: (quote: Quote) =>
      ask(api.POST("/api/pages/{skill}/marks", { params: { path: { skill } }, body: { quote } })),
    onSuccess: async (mark) => {
      document.getSelection()?.removeAllRanges();
      setAdded(mark.id);
      await queryClient.invalidateQueries({ queryKey: ["marks"] });
    },
  });
  return (
    <section className={classes.marks} aria-label="Your marks">
      {selected && (
        <div className={classes.bar}>
          <span className={classes.quote}>
            “{selected.exact.slice(0, 80)}
            {selected.exact.length > 80 && "…"}”
          </span>
          {/* Pressing it must not take the selection away first. */}
          <Button size="sm" onPointerDown={(e) => e.preventDefault()} onClick={() => add.mutate(selected)}>
            Mark this passage
          </Button>
        </div>
      )}
      <h2>Your marks</h2>
      {marks.length === 0 && (
        <p className={classes.dim}>
          Select words on the page to mark them and write a note beside them. Only you see your marks.
        </p>
      )}
      {add.error && <Trouble error={add.error} />}
      <ul className={classes.list}>
        {marks.map((mark) => (
          <MarkLine key={mark.id} mark={mark} focused={mark.id === added} />
        ))}
      </ul>
      <BySentence root={root} shown={shown} pending={add.isPending} onMark={(quote) => add.mutate(quote)} />
    </section>
  );
}

type BySentenceProps = {
  root: RefObject<HTMLElement | null>;
  shown: string;
  pending: boolean;
  onMark: (quote: Quote) => void;
};

/** Every sentence that stands on the page now, to be marked without a pointer. */
function BySentence({ root, shown, pending, onMark }: BySentenceProps) {
  const [open, setOpen] = useState(false);
  const [sentences, setSentences] = useState<Quote[]>([]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: other steps are another text
  useEffect(() => {
    const blocks = root.current?.querySelectorAll("[data-mark-block]") ?? [];
    if (open) setSentences([...blocks].flatMap((b) => sentencesOf(textOf(b))));
  }, [open, shown, root]);
  return (
    <details className={classes.sentences} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>Mark a sentence by keyboard</summary>
      <ul>
        {sentences.map((quote) => (
          <li key={`${quote.prefix}/${quote.exact}`}>
            <span>{quote.exact}</span>{" "}
            <Button
              size="compact-sm"
              variant="default"
              disabled={pending}
              aria-label={`Mark: ${quote.exact}`}
              onClick={() => onMark(quote)}
            >
              Mark
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
