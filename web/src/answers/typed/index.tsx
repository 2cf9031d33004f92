import { TextInput, UnstyledButton } from "@mantine/core";
import { useRef, useState } from "react";
import { Maths } from "../../shared/Maths";
import type { Answer, FieldProps, GivenProps } from "../kinds";
import classes from "./Field.module.css";
import { fieldInUse } from "./inUse";
import { ReadsAs } from "./ReadsAs";

/** A field for a typed answer, with its keys and how it reads. */
function Field(props: FieldProps<"typed">) {
  const { assignment, question, part, name = part, entry, disabled, invalid, onChange } = props;
  const value = typeof props.value === "string" ? props.value : "";
  const input = useRef<HTMLInputElement>(null);
  const [focused, setFocused] = useState(false);
  const readsId = `reads-${question}-${name}`;
  const type = (text: string, back = 0) => {
    const field = input.current;
    if (!field) return;
    const now = field.value;
    const start = field.selectionStart ?? now.length;
    const end = field.selectionEnd ?? now.length;
    onChange(now.slice(0, start) + text + now.slice(end));
    const cursor = start + text.length - back;
    requestAnimationFrame(() => {
      field.focus();
      field.setSelectionRange(cursor, cursor);
    });
  };
  /** A result beside something else keeps its value: it goes into brackets there. */
  const typeResult = (text: string) => {
    const field = input.current;
    if (!field || field.disabled) return false;
    const before = field.value.slice(0, field.selectionStart ?? field.value.length);
    const after = field.value.slice(field.selectionEnd ?? field.value.length);
    type((before + after).trim() === "" ? text : `(${text})`);
    return true;
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only watches where the focus is
    <div
      onFocus={() => {
        setFocused(true);
        fieldInUse(typeResult);
      }}
      onBlur={(e) => setFocused(e.currentTarget.contains(e.relatedTarget as Node | null))}
    >
      <div className={classes.line}>
        <TextInput
          ref={input}
          className={classes.field}
          label={entry.label}
          description={entry.wanted ? `Wanted: ${entry.wanted}` : undefined}
          value={value}
          disabled={disabled}
          error={invalid}
          onChange={(e) => onChange(e.currentTarget.value)}
          autoComplete="off"
          autoCapitalize="none"
          autoCorrect="off"
          spellCheck={false}
          data-part={name}
          aria-describedby={readsId}
          maxLength={2100}
        />
        {entry.unit && <span className={classes.unit}>{entry.unit}</span>}
      </div>
      {!disabled && (
        <div className={classes.keys} data-shown={focused} role="toolbar" aria-label="Keys for this answer">
          {entry.keys.map((key) => (
            <UnstyledButton
              key={key.says}
              className={classes.key}
              aria-label={key.says}
              tabIndex={focused ? 0 : -1}
              onMouseDown={(e) => e.preventDefault()}
              onClick={() => type(key.types, key.back)}
            >
              {key.shows}
            </UnstyledButton>
          ))}
        </div>
      )}
      {!disabled && (
        <ReadsAs
          assignment={assignment}
          question={question}
          part={part}
          name={name}
          entry={value}
          id={readsId}
        />
      )}
    </div>
  );
}

/** An entry as it was read, or as it was typed where it was not. */
function Given({ verdict }: GivenProps<"typed">) {
  if (verdict.reads_as) return <Maths latex={verdict.reads_as} spoken={verdict.speech} />;
  return <code>{verdict.response}</code>;
}

export const typed: Answer<"typed"> = { Field, Given, empty: "" };
