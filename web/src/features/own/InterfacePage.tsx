import { Skeleton, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import classes from "./InterfacePage.module.css";

type Named = { name: string; in: string; required?: boolean; description?: string; schema?: unknown };
type Operation = {
  summary?: string;
  description?: string;
  parameters?: Named[];
  requestBody?: { content?: Record<string, { schema?: unknown }> };
  responses?: Record<string, { description?: string; content?: Record<string, { schema?: unknown }> }>;
};
type Description = {
  paths: Record<string, Record<string, Operation>>;
  components: { schemas: Record<string, unknown> };
};

/** The name of what a reference points to, or the schema itself in short. */
function shape(schema: unknown): string {
  if (schema === null || typeof schema !== "object") return "";
  const known = schema as { $ref?: string; type?: string | string[]; items?: unknown };
  if (known.$ref) return known.$ref.split("/").at(-1) ?? "";
  if (known.items) return `list of ${shape(known.items)}`;
  return Array.isArray(known.type) ? known.type.join(" or ") : (known.type ?? "");
}

const shapes = (content?: Record<string, { schema?: unknown }>) =>
  Object.entries(content ?? {}).map(([type, of]) => [type, shape(of.schema)] as const);

/** What programs can ask for: the description of the interface, to be read. */
export function InterfacePage() {
  const [words, setWords] = useState("");
  const found = useQuery({
    queryKey: ["interface"],
    queryFn: async (): Promise<Description> => {
      const response = await fetch("/api/openapi.json");
      if (!response.ok) throw new Error("The description did not come. Try again.");
      return response.json();
    },
    staleTime: 3_600_000,
  });
  const all = Object.entries(found.data?.paths ?? {}).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({ path, method: method.toUpperCase(), operation })),
  );
  const wanted = words.trim().toLowerCase();
  const shown = all.filter((r) =>
    `${r.method} ${r.path} ${r.operation.summary ?? ""}`.toLowerCase().includes(wanted),
  );
  return (
    <Frame trail={[{ label: "Your data", to: "/own" }, { label: "What programs can ask for" }]}>
      {found.error && (
        <Trouble heading={found.data ? undefined : "What programs can ask for"} error={found.error} />
      )}
      {found.isPending && <Skeleton height={420} aria-label="Loading the description" />}
      {found.data && (
        <>
          <h1>What programs can ask for</h1>
          <p>
            Send a token of yours as <code>Authorization: Bearer slate_…</code> With <b>read scores</b> it
            reaches one’s own scores, and the sheet and <i>How it went</i> of classes one teaches; with{" "}
            <b>manage classes</b> it makes and changes classes and who is in them. All the rest is what the
            pages themselves ask for. For programs: <a href="/api/openapi.json">openapi.json</a>.
          </p>
          <TextInput label="Find" maw={360} value={words} onChange={(e) => setWords(e.currentTarget.value)} />
          <p className={classes.dim} role="status">
            {shown.length} of {all.length}
          </p>
          {shown.map((r) => (
            <details key={`${r.method} ${r.path}`} className={classes.route}>
              <summary>
                <code>
                  <b>{r.method}</b> {r.path}
                </code>{" "}
                <span>{r.operation.summary}</span>
              </summary>
              <Asked operation={r.operation} schemas={found.data.components.schemas} />
            </details>
          ))}
        </>
      )}
    </Frame>
  );
}

type AskedProps = { operation: Operation; schemas: Record<string, unknown> };

function Asked({ operation, schemas }: AskedProps) {
  const bodies = shapes(operation.requestBody?.content);
  const named = new Set<string>();
  for (const [, name] of bodies) named.add(name);
  for (const response of Object.values(operation.responses ?? {})) {
    for (const [, name] of shapes(response.content)) named.add(name);
  }
  const known = [...named].filter((name) => name !== "Problem" && schemas[name]);
  return (
    <div className={classes.asked}>
      {operation.description && operation.description !== operation.summary && <p>{operation.description}</p>}
      {(operation.parameters ?? []).length > 0 && (
        <ul>
          {operation.parameters?.map((p) => (
            <li key={p.name}>
              <code>{p.name}</code> in the {p.in}, {shape(p.schema)}
              {p.description ? `: ${p.description}` : ""}
            </li>
          ))}
        </ul>
      )}
      {bodies.map(([type, name]) => (
        <p key={type}>
          Takes <code>{name}</code> as {type}.
        </p>
      ))}
      <ul>
        {Object.entries(operation.responses ?? {}).map(([status, response]) => (
          <li key={status}>
            <b>{status}</b>{" "}
            {shapes(response.content).map(([type, name]) => (
              <span key={type}>
                <code>{name || type}</code>{" "}
              </span>
            ))}
          </li>
        ))}
      </ul>
      {known.map((name) => (
        <details key={name}>
          <summary>{name}</summary>
          <pre>{JSON.stringify(schemas[name], null, 2)}</pre>
        </details>
      ))}
    </div>
  );
}
