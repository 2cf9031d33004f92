import { Checkbox, Radio, Stack } from "@mantine/core";
import type { Schemas } from "../../api/client";
import { Line } from "../../shared/Prose";
import type { Answer, FieldProps } from "../kinds";
import { Lines } from "../Lines";
import { Told } from "../Told";
import classes from "./Field.module.css";

/** Choices, with their letters: one of them, or any number. */
function Field({ part, name = part, entry, disabled, onChange, ...props }: FieldProps<"choice">) {
  const value = Array.isArray(props.value) ? props.value : [];
  const told = (id: string) => {
    const member = props.members.find((m) => m.id === id);
    if (member) return <Told right={member.right} />;
    return props.wrongBefore.includes(id) && <Told right={false} words="tried before, not right" />;
  };
  const label = (i: number, { id, text }: Schemas["ChoiceView"]) => (
    <span className={classes.choice} data-tried={props.wrongBefore.includes(id)}>
      <span className={classes.letter}>{String.fromCharCode(65 + i)}</span>
      <span>
        <Line content={text} />
      </span>
      {told(id)}
    </span>
  );
  if (entry.several) {
    return (
      <Checkbox.Group label="Choose all that are right" value={value} onChange={onChange} data-part={name}>
        <Stack gap="xs" mt="xs">
          {entry.choices.map((c, i) => (
            <Checkbox key={c.id} size="md" value={c.id} label={label(i, c)} disabled={disabled} />
          ))}
        </Stack>
      </Checkbox.Group>
    );
  }
  return (
    <Radio.Group label="Choose one" value={value[0] ?? ""} onChange={(v) => onChange([v])} data-part={name}>
      <Stack gap="xs" mt="xs">
        {entry.choices.map((c, i) => (
          <Radio key={c.id} size="md" value={c.id} label={label(i, c)} disabled={disabled} />
        ))}
      </Stack>
    </Radio.Group>
  );
}

export const choice: Answer<"choice"> = { Field, Given: Lines, empty: [] };
