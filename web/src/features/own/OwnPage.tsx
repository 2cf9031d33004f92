import { Button, Checkbox, Skeleton, TextInput } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { meQuery } from "../sign-in/queries";
import classes from "./OwnPage.module.css";
import { Password } from "./Password";

const ownQuery = () =>
  queryOptions({ queryKey: ["own"], queryFn: () => ask(api.GET("/api/own")), staleTime: 0 });

/** What one takes out: calendars, tokens for other programs, and all that is kept. */
export function OwnPage() {
  const own = useQuery(ownQuery());
  return (
    <Frame trail={[{ label: "Your data" }]}>
      {own.error && <Trouble heading={own.data ? undefined : "Your data"} error={own.error} />}
      {own.isPending && <Skeleton height={320} aria-label="Loading your data" />}
      {own.data && (
        <>
          <h1>Your data</h1>
          <section className={classes.section} aria-labelledby="own-calendars">
            <h2 id="own-calendars">Due dates in your calendar</h2>
            <p>
              Subscribe to an address in your calendar program; dates that are moved move there. Whoever has
              the address can read it: renew it if others have got hold of it.
            </p>
            {own.data.calendars.length === 0 && <p className={classes.dim}>You teach no class yet.</p>}
            {own.data.calendars.map((c) => (
              <Calendar key={c.class ?? "own"} calendar={c} />
            ))}
          </section>
          <section className={classes.section} aria-labelledby="own-everything">
            <h2 id="own-everything">Everything kept about you</h2>
            <p>
              A zip with everything as JSON, a summary, and your files. What an assignment keeps back until
              its results are out is kept back here, too.
            </p>
            <Button component="a" variant="default" href="/api/own/everything.zip" download>
              Download it
            </Button>
          </section>
          <Tokens tokens={own.data.tokens} />
          <Password />
        </>
      )}
    </Frame>
  );
}

function Calendar({ calendar }: { calendar: Schemas["CalendarView"] }) {
  const queryClient = useQueryClient();
  const query = calendar.class ? { class: calendar.class } : {};
  const again = () => queryClient.invalidateQueries({ queryKey: ["own"] });
  const make = useMutation({
    mutationFn: () => ask(api.POST("/api/own/calendar", { params: { query } })),
    onSuccess: again,
  });
  const end = useMutation({
    mutationFn: () => ask(api.DELETE("/api/own/calendar", { params: { query } })),
    onSuccess: () => {
      make.reset();
      return again();
    },
  });
  return (
    <div className={classes.slab}>
      <h3>{calendar.title}</h3>
      <p className={classes.dim}>
        {calendar.since ? `An address is in use since ${moment(calendar.since)}.` : "No address yet."}
      </p>
      {make.data && (
        <p role="status">
          Copy it now; it is not shown again: <code data-testid="address">{make.data.address}</code>
        </p>
      )}
      {(make.error ?? end.error) && <Trouble error={make.error ?? end.error} />}
      <div className={classes.actions}>
        <Button size="sm" variant="default" loading={make.isPending} onClick={() => make.mutate()}>
          {calendar.since ? "Renew the address" : "Create a calendar link"}
        </Button>
        {calendar.since && (
          <Button size="sm" variant="default" loading={end.isPending} onClick={() => end.mutate()}>
            Switch it off
          </Button>
        )}
      </div>
    </div>
  );
}

const scopeWords: Record<Schemas["Scope"], string> = {
  read_scores: "Read scores",
  manage_classes: "Manage classes",
};

function Tokens({ tokens }: { tokens: Schemas["TokenView"][] }) {
  const queryClient = useQueryClient();
  const { data: me } = useQuery(meQuery());
  const [name, setName] = useState("");
  const [scopes, setScopes] = useState<Schemas["Scope"][]>(["read_scores"]);
  const again = () => queryClient.invalidateQueries({ queryKey: ["own"] });
  const make = useMutation({
    mutationFn: () => ask(api.POST("/api/own/tokens", { body: { name, scopes } })),
    onSuccess: () => {
      setName("");
      return again();
    },
  });
  const end = useMutation({
    mutationFn: (id: string) => ask(api.DELETE("/api/own/tokens/{id}", { params: { path: { id } } })),
    onSuccess: again,
  });
  const offered: Schemas["Scope"][] =
    me?.role === "teacher" ? ["read_scores", "manage_classes"] : ["read_scores"];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!make.isPending) make.mutate();
  };
  return (
    <section className={classes.section} aria-labelledby="own-tokens">
      <h2 id="own-tokens">Tokens for other programs</h2>
      <p>
        A program that sends a token may do in your name what the token allows, and nothing else.{" "}
        <Link to="/interface">What programs can ask for</Link>
      </p>
      {tokens.length > 0 && (
        <ul className={classes.list}>
          {tokens.map((t) => (
            <li key={t.id}>
              <span>
                <b>{t.name}</b>{" "}
                <span className={classes.dim}>
                  {t.scopes.map((s) => scopeWords[s as Schemas["Scope"]] ?? s).join(", ")} · made{" "}
                  {moment(t.made_at)} · {t.used_at ? `last used ${moment(t.used_at)}` : "never used"}
                </span>
              </span>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`Revoke the token ${t.name}`}
                loading={end.isPending && end.variables === t.id}
                onClick={() => end.mutate(t.id)}
              >
                Revoke
              </Button>
            </li>
          ))}
        </ul>
      )}
      {make.data && (
        <p role="status">
          Copy it now; it is not shown again: <code data-testid="token">{make.data.token}</code>
        </p>
      )}
      <form className={classes.form} onSubmit={submit}>
        <TextInput
          label="A new token is for"
          required
          maxLength={60}
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
        />
        <fieldset className={classes.scopes}>
          <legend>It may</legend>
          {offered.map((scope) => (
            <Checkbox
              key={scope}
              label={scopeWords[scope].toLowerCase()}
              checked={scopes.includes(scope)}
              onChange={(e) =>
                setScopes(e.currentTarget.checked ? [...scopes, scope] : scopes.filter((s) => s !== scope))
              }
            />
          ))}
        </fieldset>
        {(make.error ?? end.error) && <Trouble error={make.error ?? end.error} />}
        <div className={classes.actions}>
          <Button type="submit" loading={make.isPending}>
            Create the token
          </Button>
        </div>
      </form>
    </section>
  );
}
