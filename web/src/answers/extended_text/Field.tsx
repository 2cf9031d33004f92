import { RichTextEditor } from "@mantine/tiptap";
import "@mantine/tiptap/styles.css";
import { TableKit } from "@tiptap/extension-table";
import { type Editor, useEditor, useEditorState } from "@tiptap/react";
import StarterKit from "@tiptap/starter-kit";
import { useEffect, useRef } from "react";
import { Files, Links } from "../attached/Files";
import type { FieldProps } from "../kinds";
import textClasses from "../Written.module.css";
import {
  fromEditor,
  toEditor,
  type Written,
  type WrittenNode,
  withWritten,
  wordsIn,
  writtenOf,
} from "../written";
import classes from "./Field.module.css";
import { MathsNode } from "./mathsNode";

const extensions = [
  StarterKit.configure({
    blockquote: false,
    code: false,
    codeBlock: false,
    horizontalRule: false,
    link: false,
    strike: false,
    heading: { levels: [3] },
  }),
  TableKit.configure({ table: { resizable: false } }),
  MathsNode,
];

/** The editor holds an empty paragraph where nothing is written. */
const filled = (text: WrittenNode[]) => (text.length > 0 ? text : [{ type: "paragraph" }]);
const same = (a: WrittenNode[], b: WrittenNode[]) => JSON.stringify(filled(a)) === JSON.stringify(filled(b));

/** Writing with simple formatting, tables and maths; words are counted, files and links go with it. */
export default function Field(props: FieldProps<"extended_text">) {
  const { assignment, question, part, name = part, entry, disabled, onChange } = props;
  const written = writtenOf(props.value);
  const text = written.text ?? entry.start;
  const now = useRef<Written>(written);
  now.current = { ...written, text };
  const told = useRef(onChange);
  told.current = onChange;
  const change = (changed: Partial<Written>) => {
    const next = withWritten(now.current, changed);
    // What comes in the same moment, such as two files, builds on it.
    now.current = writtenOf(next);
    told.current(next);
  };
  const changed = useRef(change);
  changed.current = change;
  const labelId = `label-${question}-${name}`;
  const countId = `count-${question}-${name}`;
  const editor = useEditor({
    extensions,
    content: toEditor(text),
    editable: !disabled,
    shouldRerenderOnTransaction: false,
    editorProps: {
      attributes: {
        role: "textbox",
        "aria-multiline": "true",
        "aria-labelledby": labelId,
        "aria-describedby": countId,
        "data-part": name,
        class: textClasses.written ?? "",
      },
    },
    onUpdate: ({ editor: e }) => changed.current({ text: fromEditor(e.getJSON()) }),
  });
  useEffect(() => {
    editor?.setEditable(!disabled, false);
  }, [editor, disabled]);
  useEffect(() => {
    // Another window's text was taken over.
    if (editor && !editor.isDestroyed && !same(fromEditor(editor.getJSON()), text)) {
      editor.commands.setContent(toEditor(text), { emitUpdate: false });
    }
  }, [editor, text]);
  return (
    <div>
      <p className={classes.label} id={labelId}>
        {entry.label}
      </p>
      <RichTextEditor editor={editor} className={classes.frame} withTypographyStyles={false}>
        {editor && !disabled && <Toolbar editor={editor} />}
        <RichTextEditor.Content />
      </RichTextEditor>
      <p className={classes.count} id={countId} data-testid={`words-${name}`}>
        {countWords(
          // The words that stood there to begin with are not the student's.
          Math.max(0, wordsIn(text) - wordsIn(entry.start)),
          entry.least_words,
          entry.most_words,
        )}
      </p>
      <Files
        assignment={assignment}
        question={question}
        files={written.files ?? []}
        most={entry.files}
        disabled={disabled}
        onChange={(make) => change({ files: make(now.current.files ?? []) })}
      />
      <Links
        links={written.links ?? []}
        most={entry.links}
        disabled={disabled}
        onChange={(links) => change({ links })}
      />
    </div>
  );
}

/** "42 words; 60 to 120 are asked for." */
function countWords(
  count: number,
  least: number | null | undefined,
  most: number | null | undefined,
): string {
  const words = `${count} ${count === 1 ? "word" : "words"}`;
  if (least != null && most != null) return `${words}; ${least} to ${most} are asked for.`;
  if (least != null) return `${words}; at least ${least} are asked for.`;
  if (most != null) return `${words}; at most ${most} are asked for.`;
  return `${words}.`;
}

function Toolbar({ editor }: { editor: Editor }) {
  const inTable = useEditorState({ editor, selector: ({ editor: e }) => e?.isActive("table") ?? false });
  const run = () => editor.chain().focus();
  const word = (label: string, title: string, act: () => void) => (
    <RichTextEditor.Control className={classes.word} aria-label={title} title={title} onClick={act}>
      {label}
    </RichTextEditor.Control>
  );
  return (
    <RichTextEditor.Toolbar className={classes.toolbar}>
      <RichTextEditor.ControlsGroup>
        <RichTextEditor.Bold />
        <RichTextEditor.Italic />
        <RichTextEditor.Underline />
      </RichTextEditor.ControlsGroup>
      <RichTextEditor.ControlsGroup>
        {word("Heading", "Heading", () => run().toggleHeading({ level: 3 }).run())}
        <RichTextEditor.BulletList />
        <RichTextEditor.OrderedList />
      </RichTextEditor.ControlsGroup>
      <RichTextEditor.ControlsGroup>
        {word("Maths", "Put in maths", () =>
          // Its own line takes the focus, not the text around it.
          editor.commands.insertContent({ type: "maths", attrs: { entry: "" } }),
        )}
        {!inTable &&
          word("Table", "Put in a table", () =>
            run().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run(),
          )}
      </RichTextEditor.ControlsGroup>
      {inTable && (
        <RichTextEditor.ControlsGroup>
          {word("+ row", "Add a row below", () => run().addRowAfter().run())}
          {word("+ column", "Add a column to the right", () => run().addColumnAfter().run())}
          {word("− row", "Delete this row", () => run().deleteRow().run())}
          {word("− column", "Delete this column", () => run().deleteColumn().run())}
          {word("− table", "Delete the table", () => run().deleteTable().run())}
        </RichTextEditor.ControlsGroup>
      )}
      <RichTextEditor.ControlsGroup>
        <RichTextEditor.Undo />
        <RichTextEditor.Redo />
      </RichTextEditor.ControlsGroup>
    </RichTextEditor.Toolbar>
  );
}
