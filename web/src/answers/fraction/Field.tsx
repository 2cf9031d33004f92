import { TextInput } from "@mantine/core";
import { type FocusEvent, useState } from "react";
import type { FieldProps } from "../kinds";
import { typed } from "../typed";
import { fieldInUse } from "../typed/inUse";
import { ReadsAs } from "../typed/ReadsAs";
import { useTyping } from "../typed/useTyping";
import classes from "./Field.module.css";

type Boxes = { whole: string; above: string; below: string };

const plain = /^[\w.,πx²³]*$/;
const bare = (text: string) => text.replace(/^\((.*)\)$/, "$1");
const wrapped = (text: string) => (plain.test(text) ? text : `(${text})`);

/** What is typed, in boxes; nothing if it is no single fraction. */
function inBoxes(text: string, mixed: boolean): Boxes | null {
  const all = text.trim();
  if (all === "") return { whole: "", above: "", below: "" };
  const bar = all.lastIndexOf("/");
  if (bar < 0) return /^-?\d+$/.test(all) && mixed ? { whole: all, above: "", below: "" } : null;
  const below = all.slice(bar + 1).trim();
  const front = all.slice(0, bar).trim();
  const parts = mixed ? front.match(/^(-?\d+)\s+(.*)$/) : null;
  const [whole, above] = parts ? [parts[1] ?? "", parts[2] ?? ""] : ["", front];
  const single = (t: string) => plain.test(t) || /^-[\w.]+$/.test(t) || /^\([^()]*\)$/.test(t);
  return single(above) && single(below) ? { whole, above: bare(above), below: bare(below) } : null;
}

function inOneLine({ whole, above, below }: Boxes): string {
  if (above === "" && below === "") return whole;
  const sign = above.startsWith("-") && plain.test(above.slice(1));
  return `${whole ? `${whole} ` : ""}${sign ? above : wrapped(above)}/${wrapped(below)}`;
}

/** A fraction in boxes, or typed in one line; one can go from one to the other, and nothing is lost. */
export default function Field(props: FieldProps<"fraction">) {
  const { assignment, question, part, name = part, entry, disabled, onChange } = props;
  const { field, mixed } = entry;
  const text = typeof props.value === "string" ? props.value : "";
  const boxes = inBoxes(text, mixed);
  const [line, setLine] = useState(false);
  const [at, setAt] = useState<keyof Boxes>("above");
  const { input, typeResult } = useTyping((t) => boxes && onChange(inOneLine({ ...boxes, [at]: t })));
  if (line || !boxes) {
    const Line = typed.Field;
    return (
      <div>
        <Line {...props} entry={{ type: "typed", ...field }} />
        {!disabled && (
          <button
            type="button"
            className={classes.switch}
            disabled={!boxes}
            title={boxes ? undefined : "This is no single fraction"}
            onClick={() => setLine(false)}
          >
            Use boxes
          </button>
        )}
      </div>
    );
  }
  const readsId = `reads-${question}-${name}`;
  const box = (which: keyof Boxes, label: string) => (
    <TextInput
      className={classes.box}
      aria-label={`${field.label}: ${label}`}
      placeholder={which === "whole" ? "whole" : undefined}
      value={boxes[which]}
      disabled={disabled}
      error={props.invalid}
      data-box={which}
      autoComplete="off"
      autoCapitalize="none"
      spellCheck={false}
      maxLength={200}
      aria-describedby={readsId}
      onFocus={(e: FocusEvent<HTMLInputElement>) => {
        input.current = e.currentTarget;
        setAt(which);
        fieldInUse(typeResult);
      }}
      onChange={(e) => onChange(inOneLine({ ...boxes, [which]: e.currentTarget.value }))}
    />
  );
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fraction is no set of form fields with a legend
    <div role="group" aria-label={field.label} data-part={name}>
      <p className={classes.label}>{field.label}</p>
      {field.wanted && <p className={classes.wanted}>Wanted: {field.wanted}</p>}
      <div className={classes.boxes}>
        {mixed && box("whole", "whole part")}
        <div className={classes.stack}>
          {box("above", "numerator")}
          <div className={classes.bar} />
          {box("below", "denominator")}
        </div>
        {field.unit && <span>{field.unit}</span>}
      </div>
      {!disabled && (
        <>
          <button type="button" className={classes.switch} onClick={() => setLine(true)}>
            Type it in one line
          </button>
          <ReadsAs
            assignment={assignment}
            question={question}
            part={part}
            name={name}
            entry={text}
            id={readsId}
          />
        </>
      )}
    </div>
  );
}
