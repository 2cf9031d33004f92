import { Button, Checkbox, Select, Textarea, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import type { Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { DayInput } from "./Calendar";
import classes from "./Desk.module.css";
import { ownZone, timeZones } from "./words";

type Settings = Schemas["ClassSettings"];
type Props = {
  stands?: Schemas["ClassView"];
  action: string;
  pending: boolean;
  error: unknown;
  saved?: boolean;
  onSubmit: (settings: Settings) => void;
};

/** What a class is called, and when and where it is. */
export function ClassForm({ stands, action, pending, error, saved, onSubmit }: Props) {
  const [title, setTitle] = useState(stands?.title ?? "");
  const [starts, setStarts] = useState(stands?.starts_on ?? "");
  const [ends, setEnds] = useState(stands?.ends_on ?? "");
  const [zone, setZone] = useState(stands?.time_zone ?? ownZone());
  const [word, setWord] = useState(stands?.word ?? "");
  const [sees, setSees] = useState(stands?.class_sees_messages ?? true);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (pending) return;
    onSubmit({
      title,
      starts_on: starts || null,
      ends_on: ends || null,
      time_zone: zone,
      word,
      class_sees_messages: sees,
    });
  };
  return (
    <form className={classes.form} onSubmit={submit}>
      <TextInput
        label="Title"
        required
        maxLength={80}
        value={title}
        onChange={(e) => setTitle(e.currentTarget.value)}
      />
      <div className={classes.pair}>
        <DayInput label="Term begins" value={starts} onChange={setStarts} />
        <DayInput label="Term ends" value={ends} onChange={setEnds} />
      </div>
      <Select
        label="Time zone"
        description="Dates and times you set are those of this zone."
        searchable
        allowDeselect={false}
        data={timeZones(zone)}
        value={zone}
        onChange={(to) => to && setZone(to)}
      />
      <Textarea
        label="Message to the class"
        description="Shown at the top of the class page."
        autosize
        minRows={2}
        maxLength={2000}
        value={word}
        onChange={(e) => setWord(e.currentTarget.value)}
      />
      <Checkbox
        label="Students may read what others ask for the class, without numbers, entries and verdicts"
        checked={sees}
        onChange={(e) => setSees(e.currentTarget.checked)}
      />
      {error != null && <Trouble error={error} />}
      <div className={classes.actions}>
        <Button type="submit" loading={pending}>
          {action}
        </Button>
        {saved && <span role="status">Saved</span>}
      </div>
    </form>
  );
}
