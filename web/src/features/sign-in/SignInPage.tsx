import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./SignInPage.module.css";

export function SignInPage() {
  const [userName, setUserName] = useState("");
  const [password, setPassword] = useState("");
  const search = useSearch({ from: "/sign-in" });
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const signIn = useMutation({
    mutationFn: () => ask(api.POST("/api/session", { body: { user_name: userName, password } })),
    onSuccess: async (me) => {
      queryClient.clear();
      queryClient.setQueryData(["me"], me);
      await navigate({ href: search.to ?? "/" });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!signIn.isPending) signIn.mutate();
  };
  return (
    <main className={classes.page}>
      <form className={classes.slate} onSubmit={submit}>
        <h1>Green Slate</h1>
        <p>Sign in with the user name your school gave you.</p>
        <TextInput
          label="User name"
          name="user_name"
          autoComplete="username"
          autoCapitalize="none"
          spellCheck={false}
          value={userName}
          onChange={(e) => setUserName(e.currentTarget.value)}
          required
          autoFocus
        />
        <PasswordInput
          label="Password"
          name="password"
          autoComplete="current-password"
          value={password}
          onChange={(e) => setPassword(e.currentTarget.value)}
          required
        />
        {signIn.error && <Trouble error={signIn.error} />}
        <Button type="submit" loading={signIn.isPending} fullWidth>
          Sign in
        </Button>
      </form>
    </main>
  );
}
