import "@mantine/dates/styles.css";
import { DateInput, DateTimePicker } from "@mantine/dates";
import dayjs from "dayjs";
import classes from "./Calendar.module.css";

const FORMAT = "ddd D MMM YYYY, HH:mm";

export type Term = { starts_on?: string | null | undefined; ends_on?: string | null | undefined };

/** Whether a day lies outside the class's term. */
const outside = (term: Term | undefined, day: string) =>
  (term?.starts_on != null && day < term.starts_on) || (term?.ends_on != null && day > term.ends_on);

type Props = {
  label: string;
  /** `2027-03-01T23:59`; empty for none. */
  value: string;
  onChange: (to: string) => void;
  term?: Term | undefined;
  description?: string;
  /** Inside a sentence: the label is only spoken. */
  inline?: boolean;
};

/** A date and a time on the class's clock, from a calendar that knows the term. */
export function DateAndTime({ label, value, onChange, term, description, inline = false }: Props) {
  return (
    <DateTimePicker
      size={inline ? "xs" : "sm"}
      {...(inline ? { "aria-label": `${label}: ${dayjs(value).format(FORMAT)}` } : { label, description })}
      valueFormat={FORMAT}
      placeholder={inline ? "" : "Keep the date"}
      clearable={!inline}
      firstDayOfWeek={1}
      getDayProps={(day) =>
        outside(term, day) ? { className: classes.outside ?? "", title: "outside the term" } : {}
      }
      error={value && outside(term, value.slice(0, 10)) ? "Outside the term" : undefined}
      errorProps={{ c: "var(--ochre)" }}
      timePickerProps={{ hoursInputLabel: "Hours", minutesInputLabel: "Minutes" }}
      submitButtonProps={{ "aria-label": "Use this time" }}
      value={value === "" ? null : value.replace("T", " ")}
      onChange={(to) => onChange(to ? to.slice(0, 16).replace(" ", "T") : "")}
    />
  );
}

type DayProps = {
  label: string;
  /** `2027-03-01`; empty for none. */
  value: string;
  onChange: (to: string) => void;
  description?: string;
};

/** A day. It can be typed, too. */
export function DayInput({ label, value, onChange, description }: DayProps) {
  return (
    <DateInput
      label={label}
      description={description}
      valueFormat="D MMM YYYY"
      firstDayOfWeek={1}
      clearable
      clearButtonProps={{ "aria-label": `No day: ${label}` }}
      value={value === "" ? null : value}
      onChange={(to) => onChange(to ?? "")}
    />
  );
}
