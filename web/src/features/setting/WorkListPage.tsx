import { Button, NativeSelect, Skeleton, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { kindWords } from "../../shared/states";
import { Trouble } from "../../shared/Trouble";
import { moment } from "../../shared/when";
import { ClassFrame } from "../classes/ClassFrame";
import classes from "../classes/Desk.module.css";
import { setWorkQuery } from "./queries";

type Kind = Schemas["SetKind"];

/** The work set in a class, drafts first. */
export function WorkListPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/work" });
  const work = useQuery(setWorkQuery(id));
  const all = work.data?.assignments ?? [];
  const drafts = all.filter((a) => !a.given_out);
  const out = all.filter((a) => a.given_out).reverse();
  return (
    <ClassFrame id={id} here="Work">
      {work.error && <Trouble error={work.error} />}
      {work.isPending && <Skeleton height={320} aria-label="Loading the work" />}
      {work.data && (
        <>
          <NewWork id={id} />
          {drafts.length > 0 && <List id={id} label="Drafts" list={drafts} />}
          {out.length > 0 && <List id={id} label="Given out" list={out} />}
          {all.length === 0 && (
            <p>Nothing is set yet. A new assignment begins as a draft that only you see.</p>
          )}
        </>
      )}
    </ClassFrame>
  );
}

function NewWork({ id }: { id: string }) {
  const queryClient = useQueryClient();
  const navigate = useNavigate();
  const [title, setTitle] = useState("");
  const [kind, setKind] = useState<Kind>("homework");
  const make = useMutation({
    mutationFn: () =>
      ask(api.POST("/api/classes/{id}/assignments", { params: { path: { id } }, body: { title, kind } })),
    onSuccess: async ({ id: assignment }) => {
      await queryClient.invalidateQueries({ queryKey: setWorkQuery(id).queryKey });
      await navigate({ to: "/classes/$id/work/$assignment", params: { id, assignment } });
    },
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!make.isPending) make.mutate();
  };
  return (
    <form className={classes.section} onSubmit={submit} aria-label="New assignment">
      <div className={classes.actions} style={{ alignItems: "end" }}>
        <TextInput
          label="New assignment"
          placeholder="Title"
          required
          maxLength={80}
          w={280}
          value={title}
          onChange={(e) => setTitle(e.currentTarget.value)}
        />
        <NativeSelect
          aria-label="Kind"
          data={Object.entries(kindWords).map(([value, label]) => ({ value, label }))}
          value={kind}
          onChange={(e) => setKind(e.currentTarget.value as Kind)}
        />
        <Button type="submit" loading={make.isPending}>
          Create a draft
        </Button>
      </div>
      {make.error && <Trouble error={make.error} />}
    </form>
  );
}

function List({ id, label, list }: { id: string; label: string; list: Schemas["SetWorkHead"][] }) {
  return (
    <section className={classes.section} aria-label={label}>
      <h2>{label}</h2>
      {list.map((a) => (
        <div key={a.id} className={classes.slab}>
          <h3>
            <Link to="/classes/$id/work/$assignment" params={{ id, assignment: a.id }}>
              {a.title}
            </Link>
          </h3>
          <p className={`${classes.facts} ${classes.dim}`}>
            <span>{kindWords[a.kind]}</span>
            <span>due {moment(a.due)}</span>
            {!a.counts && <span>for practice only</span>}
            {a.for_groups.length > 0 && <span>for {a.for_groups.join(", ")}</span>}
            {a.for_people > 0 && (
              <span>for {a.for_people === 1 ? "one student" : `${a.for_people} students`}</span>
            )}
          </p>
        </div>
      ))}
    </section>
  );
}
