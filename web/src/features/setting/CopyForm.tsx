import { Button, NativeSelect } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { DayInput } from "../classes/Calendar";
import classes from "../classes/Desk.module.css";
import { classesQuery } from "../classes/queries";
import type { Form } from "./queries";

/** A copy for another class or the next term, with its dates moved. */
export function CopyForm({ form, onDone }: { form: Form; onDone: () => void }) {
  const all = useQuery(classesQuery());
  const navigate = useNavigate();
  const [to, setTo] = useState(form.class_id);
  const [due, setDue] = useState(form.settings.due.slice(0, 10));
  const copy = useMutation({
    mutationFn: () =>
      ask(
        api.POST("/api/classes/{id}/assignments/{assignment}/copy", {
          params: { path: { id: form.class_id, assignment: form.id } },
          body: { class: to, due_on: due },
        }),
      ),
    onSuccess: async ({ id }) => {
      onDone();
      await navigate({ to: "/classes/$id/work/$assignment", params: { id: to, assignment: id } });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!copy.isPending) copy.mutate();
  };
  return (
    <form className={classes.actions} style={{ alignItems: "end", marginBottom: 12 }} onSubmit={submit}>
      <NativeSelect
        label="To the class"
        data={(all.data?.classes ?? []).map((c) => ({ value: c.id, label: c.title }))}
        value={to}
        onChange={(e) => setTo(e.currentTarget.value)}
      />
      <DayInput label="Due on" description="Its other dates move along." value={due} onChange={setDue} />
      <Button type="submit" loading={copy.isPending}>
        Copy it
      </Button>
      {copy.error && <Trouble error={copy.error} />}
    </form>
  );
}
