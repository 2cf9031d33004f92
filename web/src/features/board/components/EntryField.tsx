import { TextInput, UnstyledButton } from "@mantine/core";
import { useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import classes from "./EntryField.module.css";
import { ReadsAs } from "./ReadsAs";

type Typed = Extract<Schemas["EntryView"], { type: "typed" }>;

type Props = {
  assignment: string;
  question: number;
  part: string;
  entry: Typed;
  value: string;
  disabled: boolean;
  invalid: boolean;
  onChange: (value: string) => void;
};

/** A field for a typed answer, with its keys and how it reads. */
export function EntryField({ assignment, question, part, entry, value, disabled, invalid, onChange }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [focused, setFocused] = useState(false);
  const readsId = `reads-${question}-${part}`;
  const press = (key: Schemas["KeyView"]) => {
    const field = input.current;
    if (!field) return;
    const start = field.selectionStart ?? value.length;
    const end = field.selectionEnd ?? value.length;
    onChange(value.slice(0, start) + key.types + value.slice(end));
    const cursor = start + key.types.length - key.back;
    requestAnimationFrame(() => {
      field.focus();
      field.setSelectionRange(cursor, cursor);
    });
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only watches where the focus is
    <div
      onFocus={() => setFocused(true)}
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
          data-part={part}
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
              onClick={() => press(key)}
            >
              {key.shows}
            </UnstyledButton>
          ))}
        </div>
      )}
      {!disabled && (
        <ReadsAs assignment={assignment} question={question} part={part} entry={value} id={readsId} />
      )}
    </div>
  );
}
