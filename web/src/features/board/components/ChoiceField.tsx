import { Checkbox, Radio, Stack } from "@mantine/core";
import type { Schemas } from "../../../api/client";
import { Line } from "../../../shared/Prose";
import classes from "./ChoiceField.module.css";

type Choice = Extract<Schemas["EntryView"], { type: "choice" }>;

type Props = {
  part: string;
  entry: Choice;
  value: string[];
  disabled: boolean;
  onChange: (value: string[]) => void;
};

/** Choices, with their letters: one of them, or any number. */
export function ChoiceField({ part, entry, value, disabled, onChange }: Props) {
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
      <Checkbox.Group label="Choose all that are right" value={value} onChange={onChange} data-part={part}>
        <Stack gap="xs" mt="xs">
          {entry.choices.map((c, i) => (
            <Checkbox key={c.id} value={c.id} label={label(i, c.text)} disabled={disabled} />
          ))}
        </Stack>
      </Checkbox.Group>
    );
  }
  return (
    <Radio.Group label="Choose one" value={value[0] ?? ""} onChange={(v) => onChange([v])} data-part={part}>
      <Stack gap="xs" mt="xs">
        {entry.choices.map((c, i) => (
          <Radio key={c.id} value={c.id} label={label(i, c.text)} disabled={disabled} />
        ))}
      </Stack>
    </Radio.Group>
  );
}
