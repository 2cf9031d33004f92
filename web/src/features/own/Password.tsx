import { Button, PasswordInput } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { meQuery } from "../sign-in/queries";
import classes from "./OwnPage.module.css";

/** Changing one's own password, and signing out on other devices. */
export function Password() {
  const { data: me } = useQuery(meQuery());
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => ask(api.PUT("/api/own/password", { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld("");
      setFresh("");
    },
  });
  const end = useMutation({ mutationFn: () => ask(api.DELETE("/api/own/sessions")) });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!change.isPending) change.mutate();
  };
  return (
    <section className={classes.section} aria-labelledby="own-password">
      <h2 id="own-password">Password and devices</h2>
      <form className={classes.form} onSubmit={submit}>
        {/* For password managers: whose password it is. */}
        <input type="text" autoComplete="username" value={me?.user_name ?? ""} readOnly hidden />
        <PasswordInput
          label="Current password"
          autoComplete="current-password"
          required
          value={old}
          onChange={(e) => setOld(e.currentTarget.value)}
        />
        <PasswordInput
          label="New password"
          description="At least 8 characters. You stay signed in here and are signed out everywhere else; tokens and calendar addresses end."
          autoComplete="new-password"
          required
          value={fresh}
          onChange={(e) => setFresh(e.currentTarget.value)}
        />
        {change.error && <Trouble error={change.error} />}
        {change.isSuccess && <p role="status">Your password has been changed.</p>}
        <div className={classes.actions}>
          <Button type="submit" loading={change.isPending}>
            Change password
          </Button>
          <Button variant="default" loading={end.isPending} onClick={() => end.mutate()}>
            Sign out on all other devices
          </Button>
        </div>
        {end.error && <Trouble error={end.error} />}
        {end.data && (
          <p role="status">
            {end.data.ended === 0
              ? "You were signed in nowhere else."
              : end.data.ended === 1
                ? "You have been signed out in one other place."
                : `You have been signed out in ${end.data.ended} other places.`}
          </p>
        )}
      </form>
    </section>
  );
}
