import { mergeAttributes, Node } from "@tiptap/core";
import { type NodeViewProps, NodeViewWrapper, ReactNodeViewRenderer } from "@tiptap/react";
import { useEffect, useRef, useState } from "react";
import { MathsEntry } from "../MathsEntry";
import classes from "./Field.module.css";

/** Maths inside a text: typed as an answer is, shown as it reads. */
export const MathsNode = Node.create({
  name: "maths",
  group: "inline",
  inline: true,
  atom: true,
  addAttributes: () => ({ entry: { default: "" } }),
  parseHTML: () => [
    { tag: "span[data-maths]", getAttrs: (dom) => ({ entry: (dom as HTMLElement).dataset.maths ?? "" }) },
  ],
  renderHTML: ({ HTMLAttributes, node }) => [
    "span",
    mergeAttributes(HTMLAttributes, { "data-maths": String(node.attrs.entry) }),
  ],
  addNodeView: () => ReactNodeViewRenderer(MathsView),
});

/** What is shown in the text; pressed, the line in which it is typed. */
function MathsView({ node, updateAttributes, deleteNode, editor, getPos }: NodeViewProps) {
  const entry = String(node.attrs.entry);
  const [open, setOpen] = useState(entry === "");
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (open) window.setTimeout(() => input.current?.focus(), 0);
  }, [open]);
  const close = (on: boolean) => {
    setOpen(false);
    if (entry.trim() === "") deleteNode();
    const at = getPos();
    if (on) editor.commands.focus(at === undefined ? "end" : at + (entry.trim() === "" ? 0 : 1));
  };
  return (
    <NodeViewWrapper as="span" className={classes.maths}>
      {open && editor.isEditable ? (
        <>
          <input
            ref={input}
            aria-label="Maths, typed as in an answer"
            value={entry}
            size={Math.max(8, entry.length + 1)}
            autoComplete="off"
            autoCapitalize="none"
            spellCheck={false}
            maxLength={400}
            onChange={(e) => updateAttributes({ entry: e.currentTarget.value })}
            onBlur={() => close(false)}
            onKeyDown={(e) => {
              e.stopPropagation();
              if (e.key !== "Enter" && e.key !== "Escape") return;
              e.preventDefault();
              close(true);
            }}
          />
          <span className={classes.reads}>{entry.trim() !== "" && <MathsEntry entry={entry} />}</span>
        </>
      ) : (
        <button type="button" disabled={!editor.isEditable} title="Change it" onClick={() => setOpen(true)}>
          <MathsEntry entry={entry} />
        </button>
      )}
    </NodeViewWrapper>
  );
}
