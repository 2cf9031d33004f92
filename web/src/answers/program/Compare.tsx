import { MergeView } from "@codemirror/merge";
import { EditorState } from "@codemirror/state";
import { EditorView, lineNumbers } from "@codemirror/view";
import { useEffect, useRef } from "react";
import classes from "./Program.module.css";

/** Two programs side by side, with what differs marked. */
export default function Compare({ a, b }: { a: string; b: string }) {
  const place = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!place.current) return;
    const side = (doc: string, label: string) => ({
      doc,
      extensions: [
        lineNumbers(),
        EditorView.lineWrapping,
        EditorState.readOnly.of(true),
        EditorView.contentAttributes.of({ "aria-label": label, tabindex: "0" }),
      ],
    });
    const view = new MergeView({
      a: side(a, "The earlier program"),
      b: side(b, "The later program"),
      parent: place.current,
      highlightChanges: true,
      gutter: true,
    });
    return () => view.destroy();
  }, [a, b]);
  return <div ref={place} className={classes.compare} />;
}
