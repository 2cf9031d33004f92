import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./Desk.module.css";
import { classQuery, type Member } from "./queries";

/** A new password for a student. Wherever they are signed in, they are signed out. */
export function NewPassword({ id, member, onDone }: { id: string; member: Member; onDone: () => void }) {
  const queryClient = useQueryClient();
  const [password, setPassword] = useState("");
  const set = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/classes/{id}/members/{person}/password", {
          params: { path: { id, person: member.id } },
          body: { password },
        }),
      ),
    onSuccess: (now) => {
      queryClient.setQueryData(classQuery(id).queryKey, now);
      onDone();
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!set.isPending) set.mutate();
  };
  return (
    <form className={classes.form} onSubmit={submit}>
      <TextInput
        label={`New password for ${member.name}`}
        description="At least 8 characters. They are signed out everywhere."
        autoComplete="off"
        autoFocus
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
      />
      {set.error && <Trouble error={set.error} />}
      <div className={classes.actions}>
        <Button type="submit" size="xs" loading={set.isPending}>
          Set it
        </Button>
        <Button size="xs" variant="default" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </form>
  );
}
