import { TextInput, UnstyledButton } from "@mantine/core";
import { queryOptions, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Maths } from "./Maths";
import { Trouble } from "./Trouble";
import classes from "./TypingGuide.module.css";

const guideQuery = () =>
  queryOptions({
    queryKey: ["typing-guide"],
    queryFn: () => ask(api.GET("/api/typing-guide")),
    staleTime: Number.POSITIVE_INFINITY,
  });

const guideReadQuery = (kind: string, entry: string) =>
  queryOptions({
    queryKey: ["typing-guide", kind, entry],
    queryFn: () => ask(api.POST("/api/typing-guide/read", { body: { kind, entry } })),
    staleTime: Number.POSITIVE_INFINITY,
  });

type Example = Schemas["GuideExampleView"];

/** How answers are typed: found by a word, and each example tried in place. */
export function TypingGuide() {
  const guide = useQuery(guideQuery());
  const [wanted, setWanted] = useState("");
  const [trying, setTrying] = useState<Example | null>(null);
  const words = wanted.trim().toLowerCase();
  const topics = guide.data?.topics.filter((t) =>
    `${t.title} ${t.words} ${t.examples.map((e) => e.typed).join(" ")}`.toLowerCase().includes(words),
  );
  return (
    <div className={classes.guide}>
      <TextInput
        label="Find in the guide"
        placeholder="fraction, root, unit…"
        value={wanted}
        onChange={(e) => setWanted(e.currentTarget.value)}
      />
      <p>
        <Link to="/typing" search={{}}>
          Typing practice
        </Link>
        : ten short tasks, nothing scored.
      </p>
      {trying && <TryIt key={trying.kind + trying.typed} example={trying} />}
      {guide.error && <Trouble error={guide.error} />}
      {topics?.length === 0 && <p>Nothing in the guide has “{wanted}” in it.</p>}
      {topics?.map((topic) => (
        <section key={topic.title}>
          <h3>{topic.title}</h3>
          <p>{topic.words}</p>
          <ul>
            {topic.examples.map((example) => (
              <li key={example.typed}>
                <UnstyledButton
                  className={classes.typed}
                  onClick={() => setTrying(example)}
                  aria-label={`Try ${example.typed}`}
                >
                  <code>{example.typed}</code>
                </UnstyledButton>
                <Maths latex={example.reads_as} spoken={example.speech} />
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

/** A field that reads as an answer field of its kind does. */
function TryIt({ example }: { example: Example }) {
  const [entry, setEntry] = useState(example.typed);
  const [settled, setSettled] = useState(entry);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled(entry), 70);
    return () => window.clearTimeout(timer);
  }, [entry]);
  const reading = useQuery({ ...guideReadQuery(example.kind, settled), enabled: settled.trim() !== "" });
  const read = settled.trim() === "" ? undefined : reading.data;
  return (
    <div className={classes.trying} data-testid="guide-try">
      <TextInput
        label="Try it"
        value={entry}
        onChange={(e) => setEntry(e.currentTarget.value)}
        autoComplete="off"
        spellCheck={false}
        data-autofocus
      />
      <p aria-live="polite">
        Reads as{" "}
        {read?.problem ? (
          <span className={classes.problem}>{read.problem.words}</span>
        ) : (
          read && <Maths latex={read.reads_as} spoken={read.speech} />
        )}
      </p>
      {read?.cautions.map((c) => (
        <p key={c} className={classes.caution}>
          {c}
        </p>
      ))}
    </div>
  );
}
