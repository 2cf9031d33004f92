import { Button, Checkbox, NumberInput, Select, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { DateAndTime } from "./Calendar";
import classes from "./Desk.module.css";
import { several } from "./words";

type Props = {
  id: string;
  students: { id: string; name: string }[];
  assignments: { id: string; title: string }[];
  onDone: (given: boolean) => void;
};

/** Moved dates, more time, more hand-ins, more sets, opened again: for one student or several, with a reason. */
export function ExceptionForm({ id, students, assignments, onDone }: Props) {
  const queryClient = useQueryClient();
  const [assignment, setAssignment] = useState(
    assignments.length === 1 ? (assignments[0]?.id ?? null) : null,
  );
  const [due, setDue] = useState("");
  const [closes, setCloses] = useState("");
  const [time, setTime] = useState<number | string>("");
  const [handIns, setHandIns] = useState<number | string>("");
  const [sets, setSets] = useState<number | string>("");
  const [why, setWhy] = useState("");
  const [tell, setTell] = useState(false);
  const number = (n: number | string) => (n === "" ? 0 : Number(n));
  const give = useMutation({
    mutationFn: () => {
      const body: Schemas["GiveException"] = {
        students: students.map((s) => s.id),
        due: due || null,
        closes: closes || null,
        time_percent: time === "" ? null : 100 + number(time),
        more_hand_ins: number(handIns),
        more_sets: number(sets),
        why,
        tell_why: tell,
      };
      const path = { id, assignment: assignment ?? "" };
      return ask(
        api.POST("/api/classes/{id}/assignments/{assignment}/exceptions", { params: { path }, body }),
      );
    },
    onSuccess: async () => {
      await queryClient.invalidateQueries({ queryKey: ["classes", id] });
      onDone(true);
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!give.isPending) give.mutate();
  };
  return (
    <form className={`${classes.form} ${classes.links}`} onSubmit={submit} aria-label="Exception">
      <p>
        For <b>{several(students.map((s) => s.name))}</b>. Leave blank whatever stays as it is. They are told
        what changes for them, and why only if you tick the box.
      </p>
      {assignments.length > 1 && (
        <Select
          label="Assignment"
          required
          searchable
          data={assignments.map((a) => ({ value: a.id, label: a.title }))}
          value={assignment}
          onChange={setAssignment}
        />
      )}
      <div className={classes.pair}>
        <DateAndTime label="Due" description="A later one opens it again." value={due} onChange={setDue} />
        <DateAndTime
          label="Closes"
          description="Between due and closing it is late."
          value={closes}
          onChange={setCloses}
        />
      </div>
      <div className={classes.pair}>
        <NumberInput label="Extra time (%)" min={0} max={300} value={time} onChange={setTime} />
        <NumberInput label="More hand-ins" min={0} max={50} value={handIns} onChange={setHandIns} />
      </div>
      <NumberInput label="More sets of numbers" min={0} max={50} value={sets} onChange={setSets} />
      <Textarea
        label="Why"
        description="Kept with what was done."
        required
        maxLength={500}
        value={why}
        onChange={(e) => setWhy(e.currentTarget.value)}
      />
      <Checkbox
        label="Tell the student why, too"
        checked={tell}
        onChange={(e) => setTell(e.currentTarget.checked)}
      />
      {give.error && <Trouble error={give.error} />}
      <div className={classes.actions}>
        <Button type="submit" size="sm" disabled={!assignment} loading={give.isPending}>
          Grant it
        </Button>
        <Button size="sm" variant="default" onClick={() => onDone(false)}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
