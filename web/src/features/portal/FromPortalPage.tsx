import { Button, PasswordInput, Skeleton, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "../sign-in/SignInPage.module.css";
import { arrivalQuery } from "./queries";

/** Goes where the answer says, as whoever that signed in. */
export function useOn() {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  return async (on: Schemas["OnView"]) => {
    if (!on.to) return;
    queryClient.clear();
    await navigate({ href: on.to, replace: true });
  };
}

/** Somebody comes from a portal who may have an account here: they sign in to it once, or say that they have none. */
export function FromPortalPage() {
  const came = useQuery(arrivalQuery());
  return (
    <main className={classes.page}>
      {came.data ? (
        <WhoAreYou came={came.data} />
      ) : (
        <div className={classes.slate}>
          <h1>From the portal</h1>
          {came.error ? (
            <>
              <p>Nothing is waiting here any more. Open the link in the portal again.</p>
              <Link to="/">Go to Green Slate</Link>
            </>
          ) : (
            <Skeleton height={120} aria-label="One moment" />
          )}
        </div>
      )}
    </main>
  );
}

function WhoAreYou({ came }: { came: Schemas["ArrivalView"] }) {
  const [userName, setUserName] = useState("");
  const [password, setPassword] = useState("");
  const on = useOn();
  const join = useMutation({
    mutationFn: () => ask(api.POST("/api/arrival/join", { body: { user_name: userName, password } })),
    onSuccess: on,
  });
  const asNew = useMutation({ mutationFn: () => ask(api.POST("/api/arrival/new")), onSuccess: on });
  const stays = join.data?.why ?? asNew.data?.why;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!join.isPending) join.mutate();
  };
  if (stays) {
    return (
      <div className={classes.slate}>
        <h1>{came.portal}</h1>
        <p>{stays}</p>
      </div>
    );
  }
  return (
    <form className={classes.slate} onSubmit={submit}>
      <h1>Is this account yours?</h1>
      <p>
        There is already an account here for somebody called {came.name}. If it’s yours, sign in to it once:
        from then on one click in {came.portal} is enough.
      </p>
      <TextInput
        label="User name"
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
        autoComplete="current-password"
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
        required
      />
      {(join.error ?? asNew.error) && <Trouble error={join.error ?? asNew.error} />}
      <Button type="submit" loading={join.isPending} fullWidth>
        It’s mine: sign in
      </Button>
      <Button variant="default" loading={asNew.isPending} onClick={() => asNew.mutate()} fullWidth>
        I’m somebody else and new here
      </Button>
    </form>
  );
}
