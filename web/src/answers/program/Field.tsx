import { Button, Textarea } from "@mantine/core";
import { queryOptions, useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useContext, useEffect, useId, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Prose } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import type { FieldProps } from "../kinds";
import { Asked, inEditors, programOf } from "./asked";
import { Editor, type Mark } from "./Editor";
import classes from "./Program.module.css";

type Block = Schemas["BlockView"];
type Run = Schemas["RunView"];

/** How many programs run before one's own, while it is waited for. */
const placeQuery = (waiting: boolean) =>
  queryOptions({
    queryKey: ["program-place"],
    queryFn: () => ask(api.GET("/api/programs/place")),
    enabled: waiting,
    refetchInterval: 700,
    staleTime: 0,
  });

const none: Mark[] = [];

/** A program: what is asked, the editor and its output side by side, each of which folds. */
export default function Field(props: FieldProps<"program">) {
  const { entry, disabled, onChange } = props;
  const asked = useContext(Asked);
  const text = programOf(props.value) ?? entry.start;
  useEffect(() => {
    inEditors.set(`${props.assignment}/${props.question}/${props.part}`, text);
  });
  const [input, setInput] = useState(entry.input);
  const [folded, setFolded] = useState<Record<string, boolean>>({});
  const [ranText, setRanText] = useState<string | null>(null);
  const run = useMutation({
    mutationFn: (source: string) =>
      ask(api.POST("/api/programs/run", { body: { source, input, files: entry.files, seed: entry.seed } })),
    onMutate: setRanText,
  });
  const place = useQuery(placeQuery(run.isPending));
  const id = useId();
  const error = run.data?.error;
  const marks: Mark[] =
    error?.line && ranText === text
      ? [{ line: error.line, column: error.column ?? null, words: error.words }]
      : none;
  const fold = (name: string) => setFolded((f) => ({ ...f, [name]: !f[name] }));
  const panel = (name: string, heading: string, children: ReactNode) => (
    <Panel name={name} heading={heading} folded={Boolean(folded[name])} onFold={() => fold(name)}>
      {children}
    </Panel>
  );
  return (
    <div className={classes.bench} data-asked={asked ? true : undefined} data-part={props.part}>
      {asked && panel("asked", "What is asked", <Pages blocks={asked} />)}
      {panel(
        "editor",
        entry.label,
        <>
          <p id={`${id}-how`} className={classes.how}>
            JavaScript. Tab indents; Esc, then Tab leaves the editor.
          </p>
          <Editor
            label={entry.label}
            describedBy={`${id}-how`}
            value={text}
            disabled={disabled}
            marks={marks}
            onChange={(program) => onChange({ program })}
          />
          {text !== entry.start && !disabled && (
            <Button variant="subtle" size="compact-sm" onClick={() => onChange({ program: entry.start })}>
              Back to the starting text
            </Button>
          )}
        </>,
      )}
      {panel(
        "output",
        "Run and output",
        <>
          <Textarea
            label="Input, a line at a time"
            size="sm"
            autosize
            minRows={1}
            maxRows={6}
            value={input}
            onChange={(e) => setInput(e.currentTarget.value)}
          />
          <div className={classes.row}>
            <Button
              size="sm"
              variant="default"
              // Stays where it is reached by keyboard.
              onClick={() => !run.isPending && run.mutate(text)}
              data-testid="run"
            >
              {run.isPending ? "Running…" : "Run"}
            </Button>
            {run.isPending && place.data?.before != null && (
              <span>{place.data.before === 0 ? "Next in turn" : `${place.data.before} before yours`}</span>
            )}
          </div>
          {run.error && <Trouble error={run.error} />}
          <Output run={run.data} stale={ranText !== text} />
          <Files files={entry.files} />
          <Checks entry={entry} />
        </>,
      )}
    </div>
  );
}

type PanelProps = { name: string; heading: string; folded: boolean; onFold: () => void; children: ReactNode };

function Panel({ name, heading, folded, onFold, children }: PanelProps) {
  const id = useId();
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset would be laid out otherwise
    <div role="group" className={classes.panel} data-pane={name} data-folded={folded} aria-label={heading}>
      <button
        type="button"
        aria-expanded={!folded}
        aria-controls={id}
        onClick={onFold}
        className={classes.fold}
      >
        <span aria-hidden="true">{folded ? "+" : "–"}</span> {heading}
      </button>
      {/* Folded, it goes on standing there: what was typed and printed is kept. */}
      <div id={id} hidden={folded}>
        {children}
      </div>
    </div>
  );
}

/** Characters of a page of what is asked, about. */
const PAGE = 900;

function lengthOf(block: Block): number {
  return JSON.stringify(block).length / (block.type === "paragraph" ? 1.6 : 1.2);
}

function paged(blocks: Block[]): Block[][] {
  const pages: Block[][] = [[]];
  let length = 0;
  for (const block of blocks) {
    const last = pages.at(-1) ?? [];
    if (last.length > 0 && length + lengthOf(block) > PAGE) {
      pages.push([block]);
      length = lengthOf(block);
    } else {
      last.push(block);
      length += lengthOf(block);
    }
  }
  return pages;
}

/** A long text a page at a time, so that the editor stays beside it. */
function Pages({ blocks }: { blocks: Block[] }) {
  const [at, setAt] = useState(0);
  const pages = paged(blocks);
  const page = Math.min(at, pages.length - 1);
  return (
    <>
      <Prose blocks={pages[page] ?? []} />
      {pages.length > 1 && (
        <div className={classes.row}>
          <Button size="compact-sm" variant="default" disabled={page === 0} onClick={() => setAt(page - 1)}>
            Back
          </Button>
          <span>
            Page {page + 1} of {pages.length}
          </span>
          <Button
            size="compact-sm"
            variant="default"
            disabled={page === pages.length - 1}
            onClick={() => setAt(page + 1)}
          >
            On
          </Button>
        </div>
      )}
    </>
  );
}

function Output({ run, stale }: { run: Run | undefined; stale: boolean }) {
  return (
    <div className={classes.output} aria-live="polite" data-testid="output">
      {!run && (
        <p className={classes.dim}>
          Run shows here what the program prints. It can be run as often as you like.
        </p>
      )}
      {run && stale && <p className={classes.dim}>The program has changed since it was run.</p>}
      {run?.output && (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: long output is scrolled by keyboard too
        <pre tabIndex={0}>{run.output}</pre>
      )}
      {run && !run.output && !run.error && <p className={classes.dim}>It ran, and printed nothing.</p>}
      {run?.error && <p className={classes.error}>{run.error.words}</p>}
    </div>
  );
}

function Files({ files }: { files: Record<string, string> }) {
  const names = Object.keys(files);
  if (names.length === 0) return null;
  return (
    <div>
      {names.map((name) => (
        <details key={name} className={classes.file}>
          <summary>
            File <code>{name}</code>
          </summary>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: long files are scrolled by keyboard too */}
          <pre tabIndex={0}>{files[name]}</pre>
        </details>
      ))}
    </div>
  );
}

/** What Check will look for. */
function Checks({ entry }: { entry: FieldProps<"program">["entry"] }) {
  const all = entry.checks.reduce((sum, c) => sum + c.share, 0);
  return (
    <details className={classes.file}>
      <summary>
        {entry.by_hand ? "What is looked for, besides what your teacher looks for" : "What Check looks for"}
      </summary>
      <ul>
        {entry.checks.map((c) => (
          <li key={c.id}>
            {c.say}{" "}
            <span className={classes.dim}>
              {Math.round((100 * c.share) / all)} %{c.hidden && ", with input that is not shown"}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
