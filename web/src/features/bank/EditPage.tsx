import { Button, NativeSelect, Skeleton } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { lazy, Suspense, useCallback, useEffect, useMemo, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import classes from "./Bank.module.css";
import { Correction } from "./Correction";
import { kindLabel } from "./find";
import { holdForPhone } from "./phone";
import { type Given, startersQuery, textQuery, triedQuery } from "./queries";
import { Shown } from "./Shown";

/** The editor weighs more than most pages: it comes when it is first used. */
const TextEditor = lazy(() => import("./TextEditor").then((m) => ({ default: m.TextEditor })));

/** A question of the bank as text, beside a live picture of it. */
export function EditPage() {
  const { slug } = useParams({ from: "/signed-in/bank/$slug/edit" });
  const found = useQuery({ ...textQuery(slug), refetchOnWindowFocus: false });
  return (
    <Frame trail={[{ label: slug }]}>
      {found.error && <Trouble heading={found.data ? undefined : "Question"} error={found.error} />}
      {found.isPending && <Skeleton height={420} aria-label="Loading the text" />}
      {found.data && (
        <>
          <h1>{slug}</h1>
          <Editor key={slug} text={found.data.text} />
          <Correction slug={slug} />
          <Versions versions={found.data.versions} />
        </>
      )}
    </Frame>
  );
}

/** A new question, from a copy or from a starter. */
export function NewQuestionPage() {
  const { from } = useSearch({ from: "/signed-in/bank-new" });
  const navigate = useNavigate();
  const starters = useQuery(startersQuery());
  const copy = useQuery({ ...textQuery(from?.slice(5) ?? ""), enabled: from?.startsWith("copy:") ?? false });
  const kind = from ?? starters.data?.starters.find((s) => s.kind === "text_entry")?.kind ?? "";
  const starter = starters.data?.starters.find((s) => s.kind === kind);
  const text = copy.data ? copy.data.text.replace(/^id: .*$/m, "id: a-new-question") : starter?.text;
  return (
    <Frame trail={[{ label: "A new question" }]}>
      <h1>A new question</h1>
      {starters.error && <Trouble error={starters.error} />}
      {starters.data && (
        <NativeSelect
          label="Start from"
          maw={320}
          mb={14}
          data={starters.data.starters.map((s) => ({ value: s.kind, label: kindLabel(s.kind) }))}
          value={kind}
          onChange={(e) =>
            navigate({ to: "/bank-new", search: { from: e.currentTarget.value }, replace: true })
          }
        />
      )}
      {text === undefined ? (
        <Skeleton height={420} aria-label="Loading the starter" />
      ) : (
        <Editor key={from ?? kind} text={text} />
      )}
    </Frame>
  );
}

function Editor({ text: stands }: { text: string }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [text, setText] = useState(stands);
  const [asked] = useDebouncedValue(text, 500);
  const [seed, setSeed] = useState(1);
  const [parts, setParts] = useState<Given[]>([]);
  const tried = useQuery(triedQuery(asked, seed, parts));
  const read = useCallback(
    (part: string, entry: string) =>
      ask(api.POST("/api/bank/try/read", { body: { text: asked, part, entry } })),
    [asked],
  );
  useEffect(() => holdForPhone(asked), [asked]);
  const save = useMutation({
    mutationFn: () => ask(api.PUT("/api/bank", { body: { text } })),
    onSuccess: async (saved) => {
      if (saved.faults.length > 0) return;
      await queryClient.invalidateQueries({ queryKey: ["bank"] });
      await navigate({ to: "/bank/$slug/edit", params: { slug: saved.id } });
    },
  });
  const faults = useMemo(
    () => (save.data && save.data.faults.length > 0 ? save.data.faults : (tried.data?.faults ?? [])),
    [save.data, tried.data],
  );
  const saved = save.data !== undefined && save.data.faults.length === 0;
  return (
    <div className={classes.columns}>
      <div>
        <Suspense fallback={<Skeleton height={420} aria-label="Loading the editor" />}>
          <TextEditor
            label="The question as text"
            value={stands}
            faults={faults}
            onChange={(to) => {
              setText(to);
              if (save.data) save.reset();
            }}
          />
        </Suspense>
        {faults.length > 0 && (
          <ul className={classes.faults} aria-label="What is wrong">
            {faults.map((f) => (
              <li key={`${f.line}${f.words}`}>
                Line {f.line}: {f.words}
              </li>
            ))}
          </ul>
        )}
        {(save.error ?? tried.error) != null && <Trouble error={save.error ?? tried.error} />}
        <div className={classes.buttons}>
          <Button loading={save.isPending} disabled={saved} onClick={() => save.mutate()}>
            Check and save
          </Button>
          <span role="status" className={classes.dim}>
            {save.isPending
              ? "Two hundred sets are drawn and marked."
              : saved
                ? "Saved. This version is used for work given out from now on."
                : ""}
          </span>
        </div>
      </div>
      <div>
        {tried.data?.shown ? (
          <Shown
            key={seed}
            shown={tried.data.shown}
            prefix="try-"
            place={`text/${asked}`}
            phone={`/bank-phone?seed=${seed}`}
            read={read}
            pending={tried.isFetching}
            onCheck={setParts}
            onOther={() => {
              setParts([]);
              setSeed(seed + 1);
            }}
          />
        ) : (
          <p className={classes.dim}>The preview appears once the text can be read.</p>
        )}
      </div>
    </div>
  );
}

function Versions({ versions }: { versions: Schemas["VersionView"][] }) {
  return (
    <section className={classes.versions} aria-label="Versions">
      <h2>Versions</h2>
      {versions.map((v, at) => (
        <details key={v.at}>
          <summary>
            {moment(v.at)}
            {v.by && `, ${v.by}`}
            {at === 0 && ": the newest, for what is given out from now on"}
            {v.uses.length > 0 && ` · used in ${v.uses.join(", ")}`}
          </summary>
          <pre>{v.text}</pre>
        </details>
      ))}
    </section>
  );
}
