import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { javascript } from "@codemirror/lang-javascript";
import {
  bracketMatching,
  HighlightStyle,
  indentOnInput,
  indentUnit,
  syntaxHighlighting,
} from "@codemirror/language";
import { lintGutter, setDiagnostics } from "@codemirror/lint";
import { EditorState } from "@codemirror/state";
import { EditorView, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import classes from "./Program.module.css";

/** In the page's own colours, in both slates; weight and slant say the same. */
const ours = HighlightStyle.define([
  { tag: tags.keyword, color: "var(--moss)", fontWeight: "700" },
  { tag: tags.string, color: "var(--sky)" },
  { tag: tags.number, color: "var(--ochre)" },
  { tag: tags.bool, color: "var(--ochre)" },
  { tag: tags.comment, color: "var(--ink-dim)", fontStyle: "italic" },
]);

export type Mark = { line: number; column: number | null; words: string };

type Props = {
  label: string;
  describedBy: string;
  value: string;
  disabled: boolean;
  marks: Mark[];
  onChange: (text: string) => void;
};

/** The editor of a program. Tab indents; after Esc it leaves, as everywhere. */
export function Editor({ label, describedBy, value, disabled, marks, onChange }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const told = useRef(onChange);
  told.current = onChange;
  const first = useRef(value);
  first.current = value;
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
          indentOnInput(),
          javascript(),
          syntaxHighlighting(ours),
          lintGutter(),
          keymap.of([...defaultKeymap.filter((k) => k.key !== "Mod-Enter"), ...historyKeymap, indentWithTab]),
          EditorView.lineWrapping,
          EditorState.readOnly.of(disabled),
          EditorView.editable.of(!disabled),
          EditorView.contentAttributes.of({
            "aria-label": label,
            "aria-describedby": describedBy,
            tabindex: "0",
          }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) told.current(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label, describedBy, disabled]);
  // What came from another window, or a start that was taken again.
  useEffect(() => {
    const editor = view.current;
    if (!editor || editor.state.doc.toString() === value) return;
    editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  useEffect(() => {
    const editor = view.current;
    if (!editor) return;
    const at = marks.map((m) => {
      const line = editor.state.doc.line(Math.min(Math.max(m.line, 1), editor.state.doc.lines));
      const from = Math.min(line.from + Math.max((m.column ?? 1) - 1, 0), line.to);
      return { from, to: line.to, severity: "error" as const, message: m.words };
    });
    editor.dispatch(setDiagnostics(editor.state, at));
  }, [marks]);
  return <div ref={place} className={classes.editor} />;
}
