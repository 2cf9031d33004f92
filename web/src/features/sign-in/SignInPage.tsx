import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { startQuery } from "../welcome/queries";
import classes from "./SignInPage.module.css";

export function SignInPage() {
  const [userName, setUserName] = useState("");
  const [password, setPassword] = useState("");
  const search = useSearch({ from: "/sign-in" });
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const start = useQuery(startQuery());
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
        {start.data?.empty && (
          <p>
            Nobody is here yet. On the server, <code>green-slate teacher add NAME</code> makes the first
            teacher, who then makes the first class.
          </p>
        )}
        {signIn.error && <Trouble error={signIn.error} />}
        <Button type="submit" loading={signIn.isPending} fullWidth>
          Sign in
        </Button>
        <p>
          <Link to="/join">Join a class with a code</Link>
        </p>
      </form>
    </main>
  );
}
