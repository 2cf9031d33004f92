import { SegmentedControl } from "@mantine/core";
import { useState } from "react";
import segmented from "../../app/segmented.module.css";
import type { Format } from "./Pages";
import classes from "./Paper.module.css";
import type { Room } from "./PaperQuestion";

const KEY = "green-slate/paper";

type Layout = { format: Format; room: Room };

/** Paper and room as they were chosen last in this browser. */
export function useLayout(): [Layout, (to: Partial<Layout>) => void] {
  const [layout, setLayout] = useState<Layout>(() => {
    const usual: Layout = { format: "a4", room: "some" };
    try {
      return { ...usual, ...JSON.parse(localStorage.getItem(KEY) ?? "{}") };
    } catch {
      return usual;
    }
  });
  return [
    layout,
    (to) => {
      const next = { ...layout, ...to };
      localStorage.setItem(KEY, JSON.stringify(next));
      setLayout(next);
    },
  ];
}

type ChoiceProps<T extends string> = {
  label: string;
  value: T;
  data: { value: T; label: string }[];
  onChange: (to: T) => void;
};

export function Choice<T extends string>({ label, value, data, onChange }: ChoiceProps<T>) {
  return (
    <fieldset className={classes.choice} aria-label={label}>
      <span aria-hidden="true">{label}</span>
      <SegmentedControl
        size="xs"
        classNames={segmented}
        aria-label={label}
        value={value}
        onChange={(to) => onChange(to as T)}
        data={data}
      />
    </fieldset>
  );
}

export function LayoutChoices({
  layout,
  onLayout,
}: {
  layout: Layout;
  onLayout: (to: Partial<Layout>) => void;
}) {
  return (
    <>
      <Choice
        label="Paper"
        value={layout.format}
        onChange={(format) => onLayout({ format })}
        data={[
          { value: "a4", label: "A4" },
          { value: "letter", label: "Letter" },
        ]}
      />
      <Choice
        label="Space for working"
        value={layout.room}
        onChange={(room) => onLayout({ room })}
        data={[
          { value: "little", label: "Little" },
          { value: "some", label: "Some" },
          { value: "much", label: "A lot" },
        ]}
      />
    </>
  );
}
