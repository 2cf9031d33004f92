import { Button, Skeleton } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useBlocker, useParams } from "@tanstack/react-router";
import { lazy, type ReactNode, Suspense, useEffect, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Frame } from "../../app/Frame";
import { Prose } from "../../shared/Prose";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import classes from "./Bank.module.css";
import { bankQuery } from "./queries";

const TextEditor = lazy(() => import("./TextEditor").then((m) => ({ default: m.TextEditor })));

type Fault = Schemas["TextFaultView"];
type Saved = Schemas["ContentSaved"];

/** Every skill with its page, to be edited; and the skills themselves. */
export function ContentPage() {
  const bank = useQuery(bankQuery());
  return (
    <Frame trail={[{ label: "Bank", to: "/bank" }, { label: "Pages and skills" }]}>
      {bank.error && <Trouble heading={bank.data ? undefined : "Pages and skills"} error={bank.error} />}
      {bank.isPending && <Skeleton height={420} aria-label="Loading the pages" />}
      {bank.data && (
        <>
          <h1>Pages and skills</h1>
          <div className={classes.buttons}>
            <Button component={Link} to="/bank-skills" variant="default" size="sm">
              Edit the skills
            </Button>
          </div>
          <ul className={classes.list}>
            {bank.data.skills.map((s) => (
              <li key={s.id}>
                <div>
                  <b>{s.title}</b>
                  <span className={classes.dim}>
                    {s.class}
                    {!s.has_page && " · no page yet"}
                  </span>
                </div>
                <Link to="/bank-pages/$skill" params={{ skill: s.id }}>
                  {s.has_page ? "Edit the page" : "Write a page"}
                </Link>
              </li>
            ))}
          </ul>
        </>
      )}
    </Frame>
  );
}

/** A reading page as text, beside the page as it will be read. */
export function EditContentPage() {
  const { skill } = useParams({ from: "/signed-in/bank-pages/$skill" });
  const path = { params: { path: { skill } } };
  const bank = useQuery(bankQuery());
  const title = bank.data?.skills.find((s) => s.id === skill)?.title ?? skill;
  const stands = useQuery({
    queryKey: ["bank", "pages", skill],
    queryFn: () => ask(api.GET("/api/bank/pages/{skill}/text", path)),
    refetchOnWindowFocus: false,
  });
  return (
    <Content
      title={`The page on ${title}`}
      stands={stands.data}
      error={stands.error}
      saved="Saved. This is what students read from now on."
      save={(text) => ask(api.PUT("/api/bank/pages/{skill}", { ...path, body: { text } }))}
      preview={(text, onFaults) => <PagePreview skill={skill} text={text} onFaults={onFaults} />}
    />
  );
}

/** The skills as text, beside their strata. */
export function EditSkillsPage() {
  const stands = useQuery({
    queryKey: ["bank", "skills"],
    queryFn: () => ask(api.GET("/api/bank/skills/text")),
    refetchOnWindowFocus: false,
  });
  return (
    <Content
      title="The skills"
      stands={stands.data}
      error={stands.error}
      saved="Saved. Skills are shown so from now on."
      save={(text) => ask(api.PUT("/api/bank/skills", { body: { text } }))}
      preview={(text, onFaults) => <SkillsPreview text={text} onFaults={onFaults} />}
    />
  );
}

type ContentProps = {
  title: string;
  stands: Schemas["ContentText"] | undefined;
  error: unknown;
  saved: string;
  save: (text: string) => Promise<Saved>;
  preview: (text: string, onFaults: (faults: Fault[]) => void) => ReactNode;
};

function Content({ title, stands, error, ...rest }: ContentProps) {
  return (
    <Frame
      trail={[
        { label: "Bank", to: "/bank" },
        { label: "Pages and skills", to: "/bank-content" },
        { label: title },
      ]}
    >
      {error != null && <Trouble heading={stands ? undefined : title} error={error} />}
      {!stands && error == null && <Skeleton height={420} aria-label="Loading the text" />}
      {stands && (
        <>
          <h1>{title}</h1>
          <Editor stands={stands} {...rest} />
          <Versions versions={stands.versions} />
        </>
      )}
    </Frame>
  );
}

function Editor({
  stands,
  saved,
  save,
  preview,
}: Omit<ContentProps, "title" | "error" | "stands"> & {
  stands: Schemas["ContentText"];
}) {
  const queryClient = useQueryClient();
  const [first] = useState(stands.text);
  const [text, setText] = useState(stands.text);
  const [asked] = useDebouncedValue(text, 500);
  const [faults, setFaults] = useState<Fault[]>([]);
  const saving = useMutation({
    mutationFn: () => save(text),
    onSuccess: async (said) => {
      setFaults(said.faults);
      if (said.faults.length === 0) await queryClient.invalidateQueries({ queryKey: ["bank"] });
    },
  });
  const done = saving.data !== undefined && saving.data.faults.length === 0;
  const changed = text !== stands.text && !done;
  useBlocker({
    shouldBlockFn: () => changed && !window.confirm("The text is not saved. Leave without saving it?"),
    enableBeforeUnload: () => changed,
  });
  return (
    <div className={classes.columns}>
      <div>
        <Suspense fallback={<Skeleton height={420} aria-label="Loading the editor" />}>
          <TextEditor
            label="The text"
            value={first}
            faults={faults}
            plain
            onChange={(to) => {
              setText(to);
              if (saving.data) saving.reset();
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
        {saving.error && <Trouble error={saving.error} />}
        <div className={classes.buttons}>
          <Button loading={saving.isPending} disabled={!changed} onClick={() => saving.mutate()}>
            Check and save
          </Button>
          <span role="status" className={classes.dim}>
            {done ? saved : ""}
          </span>
        </div>
      </div>
      <div>{preview(asked, setFaults)}</div>
    </div>
  );
}

function Versions({ versions }: { versions: Schemas["ContentVersion"][] }) {
  if (versions.length === 0) return null;
  return (
    <section className={classes.versions} aria-label="Versions">
      <h2>Versions</h2>
      {versions.map((v, at) => (
        <details key={v.at}>
          <summary>
            {moment(v.at)}
            {v.by && `, ${v.by}`}
            {at === 0 && ": the newest, in use"}
          </summary>
          <pre>{v.text}</pre>
        </details>
      ))}
    </section>
  );
}

type PreviewProps = { text: string; onFaults: (faults: Fault[]) => void };

function PagePreview({ skill, text, onFaults }: PreviewProps & { skill: string }) {
  const tried = useQuery({
    queryKey: ["bank-try", "page", skill, text],
    queryFn: () =>
      ask(api.POST("/api/bank/pages/{skill}/try", { params: { path: { skill } }, body: { text } })),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
  useEffect(() => {
    if (tried.data) onFaults(tried.data.faults);
  }, [tried.data, onFaults]);
  if (tried.error) return <Trouble error={tried.error} />;
  if (!tried.data?.steps) return <p className={classes.dim}>The page appears once the text can be read.</p>;
  return (
    <section className={classes.picture} aria-label="As it is read">
      {tried.data.steps.map((step) => (
        <div key={step.title}>
          <h2>{step.title}</h2>
          {step.blocks.map((block, i) => {
            // biome-ignore lint/suspicious/noArrayIndexKey: a preview is drawn anew as a whole
            if (block.kind === "text") return <Prose key={i} blocks={[block.block]} />;
            if (block.kind === "figure") {
              // biome-ignore lint/suspicious/noArrayIndexKey: a preview is drawn anew as a whole
              return <img key={i} src={block.address} alt={block.alt} className={classes.figure} />;
            }
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: a preview is drawn anew as a whole
              <p key={i} className={classes.dim}>
                A question to check yourself with appears here.
              </p>
            );
          })}
        </div>
      ))}
    </section>
  );
}

function SkillsPreview({ text, onFaults }: PreviewProps) {
  const tried = useQuery({
    queryKey: ["bank-try", "skills", text],
    queryFn: () => ask(api.POST("/api/bank/skills/try", { body: { text } })),
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
  useEffect(() => {
    if (tried.data) onFaults(tried.data.faults);
  }, [tried.data, onFaults]);
  if (tried.error) return <Trouble error={tried.error} />;
  const skills = tried.data?.skills;
  if (!skills) return <p className={classes.dim}>The strata appear once the text can be read.</p>;
  const count = Math.max(-1, ...skills.map((s) => s.stratum)) + 1;
  const title = (id: string) => skills.find((s) => s.id === id)?.title ?? id;
  return (
    <section className={classes.picture} aria-label="The strata">
      {Array.from({ length: count }, (_, n) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: strata are named by their number
        <div key={n}>
          <h2>{n === 0 ? "Ground" : `Stratum ${n + 1}`}</h2>
          <ul>
            {skills
              .filter((s) => s.stratum === n)
              .map((s) => (
                <li key={s.id}>
                  <b>{s.title}</b>{" "}
                  <span>
                    {s.requires.length > 0 && `on ${s.requires.map(title).join(" and ")}`}
                    {!s.has_page && (s.requires.length > 0 ? ", no page yet" : "no page yet")}
                  </span>
                </li>
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
