import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import { meQuery } from "../sign-in/queries";
import classes from "../sign-in/SignInPage.module.css";

/** Joining a class by its code: with an account, or with a new one. */
export function JoinPage() {
  const me = useQuery({ ...meQuery(), retry: false });
  const [code, setCode] = useState("");
  const [title, setTitle] = useState<string | null>(null);
  const look = useMutation({
    mutationFn: () => ask(api.POST("/api/join/look", { body: { code } })),
    onSuccess: (found) => setTitle(found.class_title),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!look.isPending) look.mutate();
  };
  return (
    <main className={classes.page}>
      {title === null ? (
        <form className={classes.slate} onSubmit={submit}>
          <h1>Join a class</h1>
          <p>Type the code your teacher gave you.</p>
          <TextInput
            label="Code"
            autoFocus
            required
            autoCapitalize="characters"
            autoComplete="off"
            value={code}
            onChange={(e) => setCode(e.currentTarget.value)}
          />
          {look.error && <Trouble error={look.error} />}
          <Button type="submit" loading={look.isPending} fullWidth>
            Find the class
          </Button>
        </form>
      ) : me.data ? (
        <AsMyself code={code} title={title} name={me.data.display_name} />
      ) : (
        <AsNew code={code} title={title} />
      )}
    </main>
  );
}

function useJoined() {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  return async () => {
    queryClient.clear();
    await navigate({ to: "/" });
  };
}

function AsMyself({ code, title, name }: { code: string; title: string; name: string }) {
  const joined = useJoined();
  const join = useMutation({
    mutationFn: () => ask(api.POST("/api/me/classes", { body: { code } })),
    onSuccess: joined,
  });
  return (
    <div className={classes.slate}>
      <h1>{title}</h1>
      <p>You are signed in as {name}.</p>
      {join.error && <Trouble error={join.error} />}
      <Button loading={join.isPending} onClick={() => join.mutate()} fullWidth>
        Join this class
      </Button>
    </div>
  );
}

function AsNew({ code, title }: { code: string; title: string }) {
  const joined = useJoined();
  const [name, setName] = useState("");
  const [userName, setUserName] = useState("");
  const [password, setPassword] = useState("");
  const join = useMutation({
    mutationFn: () => ask(api.POST("/api/join", { body: { code, name, user_name: userName, password } })),
    onSuccess: joined,
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!join.isPending) join.mutate();
  };
  return (
    <form className={classes.slate} onSubmit={submit}>
      <h1>{title}</h1>
      <p>
        If you have an account already,{" "}
        <Link to="/sign-in" search={{ to: "/join" }}>
          sign in
        </Link>{" "}
        first. Otherwise make one:
      </p>
      <TextInput
        label="Your name"
        description="As your teacher has it on the list."
        autoComplete="name"
        autoFocus
        required
        value={name}
        onChange={(e) => setName(e.currentTarget.value)}
      />
      <TextInput
        label="User name"
        description="What you will sign in with."
        autoComplete="username"
        autoCapitalize="none"
        required
        value={userName}
        onChange={(e) => setUserName(e.currentTarget.value)}
      />
      <PasswordInput
        label="Password"
        description="At least 8 characters."
        autoComplete="new-password"
        required
        value={password}
        onChange={(e) => setPassword(e.currentTarget.value)}
      />
      {join.error && <Trouble error={join.error} />}
      <Button type="submit" loading={join.isPending} fullWidth>
        Join this class
      </Button>
    </form>
  );
}
