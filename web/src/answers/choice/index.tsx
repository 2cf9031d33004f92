import { Checkbox, Radio, Stack } from "@mantine/core";
import type { Schemas } from "../../api/client";
import { Line } from "../../shared/Prose";
import type { Answer, FieldProps, GivenProps } from "../kinds";
import classes from "./Field.module.css";

/** Choices, with their letters: one of them, or any number. */
function Field({ part, name = part, entry, disabled, onChange, ...props }: FieldProps<"choice">) {
  const value = Array.isArray(props.value) ? props.value : [];
  const label = (i: number, content: Schemas["InlineView"][]) => (
    <span className={classes.choice}>
      <span className={classes.letter}>{String.fromCharCode(65 + i)}</span>
      <span>
        <Line content={content} />
      </span>
    </span>
  );
  if (entry.several) {
    return (
      <Checkbox.Group label="Choose all that are right" value={value} onChange={onChange} data-part={name}>
        <Stack gap="xs" mt="xs">
          {entry.choices.map((c, i) => (
            <Checkbox key={c.id} value={c.id} label={label(i, c.text)} disabled={disabled} />
          ))}
        </Stack>
      </Checkbox.Group>
    );
  }
  return (
    <Radio.Group label="Choose one" value={value[0] ?? ""} onChange={(v) => onChange([v])} data-part={name}>
      <Stack gap="xs" mt="xs">
        {entry.choices.map((c, i) => (
          <Radio key={c.id} value={c.id} label={label(i, c.text)} disabled={disabled} />
        ))}
      </Stack>
    </Radio.Group>
  );
}

/** The texts of what was chosen. */
function Given({ entry, verdict }: GivenProps<"choice">) {
  return entry.choices
    .filter((c) => verdict.response.includes(c.id))
    .map((c) => (
      <div key={c.id}>
        <Line content={c.text} />
      </div>
    ));
}

export const choice: Answer<"choice"> = { Field, Given, empty: [] };
