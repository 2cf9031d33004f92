import { Button, PasswordInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useLocation, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "../sign-in/SignInPage.module.css";
import { linkQuery } from "./queries";

/** Behind a link that signs in once: a password is chosen. */
export function WelcomePage() {
  const link = useLocation({ select: (at) => at.hash });
  const found = useQuery(linkQuery(link));
  const [password, setPassword] = useState("");
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const use = useMutation({
    mutationFn: () => ask(api.POST("/api/welcome", { body: { link, password } })),
    onSuccess: async () => {
      queryClient.clear();
      await navigate({ to: "/" });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!use.isPending) use.mutate();
  };
  const error =
    found.error ??
    (link === "" ? new Error("This link is incomplete. Open it as it was given to you.") : null);
  return (
    <main className={classes.page}>
      <form className={classes.slate} onSubmit={submit}>
        <h1>Green Slate</h1>
        {error && <Trouble error={error} />}
        {error && (
          <p>
            <Link to="/sign-in" search={{}}>
              Sign in with a password
            </Link>
          </p>
        )}
        {found.data && (
          <>
            <p>
              Welcome, {found.data.display_name}. You sign in as <b>{found.data.user_name}</b>: choose a
              password for it.
            </p>
            {/* For password managers: whose password it is. */}
            <input
              type="text"
              name="username"
              autoComplete="username"
              value={found.data.user_name}
              readOnly
              hidden
            />
            <PasswordInput
              label="Your new password"
              description="At least 8 characters."
              name="password"
              autoComplete="new-password"
              autoFocus
              required
              value={password}
              onChange={(e) => setPassword(e.currentTarget.value)}
            />
            {use.error && <Trouble error={use.error} />}
            <Button type="submit" loading={use.isPending} fullWidth>
              Sign in
            </Button>
          </>
        )}
      </form>
    </main>
  );
}
