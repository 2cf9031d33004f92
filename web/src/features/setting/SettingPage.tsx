import { Button, MultiSelect, Skeleton, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask } from "../../api/client";
import { Frame } from "../../app/Frame";
import { kindWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import classes from "../classes/Desk.module.css";
import { classQuery, seeAsStudent } from "../classes/queries";
import { CopyForm } from "./CopyForm";
import { GoalSentence } from "./GoalSentence";
import { QuestionList } from "./QuestionList";
import { assignmentQuery, type Edit, editOf, type Form, planQuery, type Settings } from "./queries";
import sentences from "./Sentence.module.css";
import { SettingSentences } from "./SettingSentences";

/** An assignment as its teacher sets it, as one page of plain sentences. */
export function SettingPage() {
  const { id, assignment } = useParams({ from: "/signed-in/classes/$id/work/$assignment" });
  const found = useQuery({ ...assignmentQuery(id, assignment), refetchOnWindowFocus: false });
  return (
    <Frame
      trail={[
        { label: found.data?.class_title ?? "Class", to: `/classes/${id}/work` },
        { label: found.data?.title ?? "Work" },
      ]}
    >
      {found.error && <Trouble heading={found.data ? undefined : "Work"} error={found.error} />}
      {found.isPending && <Skeleton height={420} aria-label="Loading the assignment" />}
      {found.data && <Setting key={found.data.version} form={found.data} />}
    </Frame>
  );
}

function Setting({ form }: { form: Form }) {
  const [edit, setEdit] = useState<Edit>(() => editOf(form));
  const [asked] = useDebouncedValue(edit, 300);
  const plan = useQuery(planQuery(form.class_id, form.id, asked));
  const term = useQuery(classQuery(form.class_id));
  const faults = [...(plan.data?.faults ?? form.faults), ...(plan.data?.refused ?? [])];
  const change = (to: Partial<Edit>) => setEdit({ ...edit, ...to });
  const set = (to: Partial<Settings>) => setEdit({ ...edit, settings: { ...edit.settings, ...to } });
  const { settings } = edit;
  const towards = settings.kind === "practice" || settings.kind === "reading";
  return (
    <article>
      <div className={classes.head}>
        <h1>{form.title}</h1>
        <span className={classes.dim}>
          {kindWords[settings.kind]} · {form.given_out ? "given out" : "a draft that only you see"}
          {form.begun > 0 && (
            <>
              {" · "}
              <Link
                to="/classes/$id/work/$assignment/went"
                params={{ id: form.class_id, assignment: form.id }}
              >
                How it went
              </Link>
            </>
          )}
          {form.begun > 0 && ` · ${form.begun === 1 ? "1 student has" : `${form.begun} students have`} begun`}
        </span>
      </div>
      <TextInput
        mb={20}
        label="Title"
        maw={420}
        maxLength={80}
        value={edit.title}
        onChange={(e) => change({ title: e.currentTarget.value })}
      />
      {towards && edit.questions.length === 0 && (
        <GoalSentence settings={settings} faults={faults} onChange={set} />
      )}
      {settings.kind !== "reading" && settings.goal == null && (
        <QuestionList
          questions={edit.questions}
          faults={faults}
          fixed={form.begun > 0}
          onChange={(questions) => change({ questions })}
        />
      )}
      <SettingSentences
        term={term.data}
        settings={settings}
        zone={form.time_zone}
        faults={faults}
        onChange={set}
      />
      <Audience form={form} edit={edit} onChange={change} />
      <SaveBar
        form={form}
        edit={edit}
        stops={plan.data?.refused.length ?? 0}
        faults={faults.length}
        effects={plan.data?.effects ?? []}
        error={plan.error}
      />
    </article>
  );
}

function Audience({
  form,
  edit,
  onChange,
}: {
  form: Form;
  edit: Edit;
  onChange: (to: Partial<Edit>) => void;
}) {
  const found = useQuery(classQuery(form.class_id));
  const students = (found.data?.members ?? []).filter((m) => !m.is_teacher && m.left_at == null);
  const groups = [...new Set([...(found.data?.groups ?? []), ...(edit.for_groups ?? [])])];
  return (
    <section className={sentences.group} aria-label="For whom">
      <h2>For whom</h2>
      <p className={classes.dim}>
        {(edit.for_groups ?? []).length + (edit.for_people ?? []).length === 0
          ? "For the whole class, and for anyone who joins later."
          : "Only for those chosen here."}
      </p>
      <div className={classes.pair}>
        <MultiSelect
          label="Groups"
          data={groups}
          value={edit.for_groups ?? []}
          onChange={(for_groups) => onChange({ for_groups })}
        />
        <MultiSelect
          label="Single students"
          searchable
          data={students.map((m) => ({ value: m.id, label: m.name }))}
          value={edit.for_people ?? []}
          onChange={(for_people) => onChange({ for_people })}
        />
      </div>
    </section>
  );
}

type BarProps = {
  form: Form;
  edit: Edit;
  stops: number;
  faults: number;
  effects: string[];
  error: unknown;
};

function SaveBar({ form, edit, stops, faults, effects, error }: BarProps) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [copying, setCopying] = useState(false);
  const path = { id: form.class_id, assignment: form.id };
  const changed = JSON.stringify(edit) !== JSON.stringify(editOf(form));
  const took = async (now: Form) => {
    queryClient.setQueryData(assignmentQuery(form.class_id, form.id).queryKey, now);
    await queryClient.invalidateQueries({ queryKey: ["classes", form.class_id, "assignments"], exact: true });
    await queryClient.invalidateQueries({ queryKey: ["classes", form.class_id, "sheet"] });
  };
  const keep = () =>
    ask(api.PUT("/api/classes/{id}/assignments/{assignment}", { params: { path }, body: edit }));
  const save = useMutation({ mutationFn: keep, onSuccess: took });
  const give = useMutation({
    mutationFn: async () => {
      if (changed) await keep();
      return ask(api.POST("/api/classes/{id}/assignments/{assignment}/give-out", { params: { path } }));
    },
    onSuccess: took,
  });
  const tryIt = useMutation({
    mutationFn: async () => {
      if (changed) await keep();
      await seeAsStudent(form.class_id);
    },
    onSuccess: async () => {
      queryClient.clear();
      await navigate({ to: "/work/$id", params: { id: form.id } });
    },
  });
  const remove = useMutation({
    mutationFn: () => ask(api.DELETE("/api/classes/{id}/assignments/{assignment}", { params: { path } })),
    onSuccess: async () => {
      await queryClient.invalidateQueries({ queryKey: ["classes", form.class_id, "assignments"] });
      await navigate({ to: "/classes/$id/work", params: { id: form.class_id } });
    },
  });
  const trouble = save.error ?? give.error ?? tryIt.error ?? remove.error ?? error;
  return (
    <div className={sentences.bar}>
      {changed && effects.length > 0 && (
        <div role="status">
          <p>Saving this does the following:</p>
          <ul>
            {effects.map((e) => (
              <li key={e}>{e}</li>
            ))}
          </ul>
        </div>
      )}
      {trouble != null && <Trouble error={trouble} />}
      {copying && <CopyForm form={form} onDone={() => setCopying(false)} />}
      <div className={classes.actions}>
        <Button
          variant={form.given_out ? "filled" : "default"}
          disabled={!changed || stops > 0 || (form.given_out && faults > 0)}
          loading={save.isPending}
          onClick={() => save.mutate()}
        >
          Save
        </Button>
        {!form.given_out && (
          <Button disabled={faults > 0} loading={give.isPending} onClick={() => give.mutate()}>
            Set it for the class
          </Button>
        )}
        <Button
          variant="default"
          disabled={faults > 0}
          loading={tryIt.isPending}
          onClick={() => tryIt.mutate()}
        >
          Try it as a student
        </Button>
        <Button variant="default" onClick={() => setCopying(!copying)}>
          Copy it
        </Button>
        {form.given_out && edit.questions.length > 0 && (
          <Button variant="default" component={Link} to={`/classes/${form.class_id}/work/${form.id}/paper`}>
            Paper copies
          </Button>
        )}
        {edit.questions.length > 0 && (
          <Button
            variant="default"
            component="a"
            href={`/api/classes/${form.class_id}/assignments/${form.id}/qti.zip`}
            download
          >
            Export as QTI
          </Button>
        )}
        {!form.given_out && (
          <Button variant="default" loading={remove.isPending} onClick={() => remove.mutate()}>
            Delete the draft
          </Button>
        )}
        <span role="status" className={classes.dim}>
          {changed ? "Not saved yet" : "Saved"}
        </span>
      </div>
    </div>
  );
}
