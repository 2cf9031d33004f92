import { TextInput } from "@mantine/core";
import { useState } from "react";
import { Maths } from "../../shared/Maths";
import type { Answer, FieldProps, GivenProps } from "../kinds";
import { BuildUp } from "./BuildUp";
import classes from "./Field.module.css";
import { fieldInUse } from "./inUse";
import { Keys } from "./Keys";
import { ReadsAs } from "./ReadsAs";
import { useTyping } from "./useTyping";

/** A field for a typed answer, with its keys and how it reads. */
function Field(props: FieldProps<"typed">) {
  const { assignment, question, part, name = part, entry, disabled, invalid, onChange } = props;
  const value = typeof props.value === "string" ? props.value : "";
  const { input, type, typeResult } = useTyping(onChange);
  const [focused, setFocused] = useState(false);
  const readsId = `reads-${question}-${name}`;
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
      {!disabled && <Keys keys={entry.keys} shown={focused} onType={type} />}
      {!disabled && entry.keys.length > 0 && (
        <BuildUp
          assignment={assignment}
          question={question}
          part={part}
          label={entry.label}
          entry={value}
          onChange={onChange}
        />
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
function Given({ verdict }: GivenProps) {
  if (verdict.reads_as) return <Maths latex={verdict.reads_as} spoken={verdict.speech} />;
  return <code>{typeof verdict.response === "string" ? verdict.response : ""}</code>;
}

export const typed: Answer<"typed"> = { Field, Given, empty: "" };
