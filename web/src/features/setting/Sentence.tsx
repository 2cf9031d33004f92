import { NativeSelect, NumberInput } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import classes from "./Sentence.module.css";

/** A plain sentence whose values can be changed, with what does not fit below it. */
export function Sentence({
  children,
  fields = [],
  faults,
}: {
  children: ReactNode;
  /** The settings in it. */
  fields?: string[];
  faults: Schemas["FaultView"][];
}) {
  return (
    <>
      <div className={classes.sentence}>{children}</div>
      {faults
        .filter((f) => fields.includes(f.field))
        .map((f) => (
          <p key={f.words} role="alert" className={classes.fault}>
            {f.words}
          </p>
        ))}
    </>
  );
}

type PickProps<T extends string> = {
  label: string;
  value: T;
  choices: Record<T, string>;
  onChange: (to: T) => void;
};

/** One of a few values, in the words of the sentence. */
export function Pick<T extends string>({ label, value, choices, onChange }: PickProps<T>) {
  return (
    <NativeSelect
      size="xs"
      aria-label={label}
      data={Object.entries<string>(choices).map(([v, words]) => ({ value: v, label: words }))}
      value={value}
      onChange={(e) => onChange(e.currentTarget.value as T)}
    />
  );
}

type CountProps = {
  label: string;
  value: number | null | undefined;
  /** What stands for no number. Without it there is always one. */
  none?: string;
  /** What a number begins with where there was none. */
  from: number;
  max?: number;
  onChange: (to: number | null) => void;
};

/** A number, or none. */
export function Count({ label, value, none, from, max = 100, onChange }: CountProps) {
  return (
    <>
      {none !== undefined && (
        <NativeSelect
          size="xs"
          aria-label={`${label}: how many`}
          data={[
            { value: "none", label: none },
            { value: "some", label: "a number" },
          ]}
          value={value == null ? "none" : "some"}
          onChange={(e) => onChange(e.currentTarget.value === "none" ? null : from)}
        />
      )}
      {value != null && (
        <NumberInput
          size="xs"
          className={classes.number}
          aria-label={label}
          min={none === undefined ? 0 : 1}
          max={max}
          value={value}
          onChange={(to) => to !== "" && Number.isInteger(Number(to)) && onChange(Number(to))}
        />
      )}
    </>
  );
}
