import { autocompletion, type CompletionContext, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { yaml } from "@codemirror/lang-yaml";
import { bracketMatching, indentUnit } from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap, lineNumbers } from "@codemirror/view";
import { useEffect, useRef } from "react";
import schema from "../../../../content/question.schema.json";
import classes from "./Bank.module.css";

export type TextFault = { line: number; words: string };

type Props = {
  label: string;
  value: string;
  faults: TextFault[];
  /** It is no question: nothing is completed by their schema. */
  plain?: boolean;
  onChange: (text: string) => void;
};

/** Every name and every fixed value that the schema of a question knows. */
const known: string[] = (() => {
  const found = new Set<string>();
  const walk = (node: unknown) => {
    if (Array.isArray(node)) return node.forEach(walk);
    if (node === null || typeof node !== "object") return;
    const entries = node as Record<string, unknown>;
    if (entries.properties && typeof entries.properties === "object") {
      for (const name of Object.keys(entries.properties)) found.add(`${name}: `);
    }
    const values = Array.isArray(entries.enum) ? entries.enum : [entries.const];
    for (const value of values) if (typeof value === "string") found.add(value);
    Object.values(entries).forEach(walk);
  };
  walk(schema);
  return [...found].sort();
})();

const complete = (context: CompletionContext) => {
  const word = context.matchBefore(/[\w-]+/);
  if (!word || (word.from === word.to && !context.explicit)) return null;
  return { from: word.from, options: known.map((label) => ({ label })) };
};

/** A question's text, with completion by its schema and faults at their lines. Tab indents; after Esc it leaves. */
export function TextEditor({ label, value, faults, plain = false, onChange }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(onChange);
  told.current = onChange;
  // Once: afterwards the editor is the one that knows.
  const first = useRef(value);
  useEffect(() => {
    if (!place.current) return;
    const editor = new EditorView({
      parent: place.current,
      state: EditorState.create({
        doc: first.current,
        extensions: [
          lineNumbers(),
          history(),
          bracketMatching(),
          indentUnit.of("  "),
          ...(plain ? [] : [yaml(), autocompletion({ override: [complete] })]),
          lintGutter(),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap, indentWithTab]),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": label, tabindex: "0" }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) told.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label, plain]);
  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const at = faults.map((f) => {
      const line = editor.state.doc.line(Math.min(Math.max(f.line, 1), editor.state.doc.lines));
      return { from: line.from, to: line.to, severity: "error" as const, message: f.words };
    });
    editor.dispatch(setDiagnostics(editor.state, at));
  }, [faults]);
  return <div ref={place} className={classes.editor} />;
}
