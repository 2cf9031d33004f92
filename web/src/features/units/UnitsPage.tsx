import { Button, Select, Skeleton, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useBlocker, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { freshId } from "../../shared/freshId";
import { Trouble } from "../../shared/Trouble";
import { ClassFrame } from "../classes/ClassFrame";
import desk from "../classes/Desk.module.css";
import { materialsQuery, unitsQuery } from "../classes/queries";
import classes from "./UnitsPage.module.css";

type Unit = Schemas["UnitView"];
type Item = Schemas["UnitItemView"];
type Materials = Schemas["MaterialsView"];

/** The material of a class in units, as its students find it. */
export function UnitsPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id/units" });
  const units = useQuery(unitsQuery(id));
  const materials = useQuery(materialsQuery(id));
  return (
    <ClassFrame id={id} here="Units">
      {(units.error ?? materials.error) && <Trouble error={units.error ?? materials.error} />}
      {(units.isPending || materials.isPending) && <Skeleton height={320} aria-label="Loading the units" />}
      {units.data && materials.data && (
        <Editor key={units.data.version} id={id} stands={units.data} materials={materials.data} />
      )}
    </ClassFrame>
  );
}

type EditorProps = { id: string; stands: Schemas["UnitsView"]; materials: Materials };

function moved<T>(list: T[], at: number, by: number): T[] {
  const to = [...list];
  const [one] = to.splice(at, 1);
  if (one !== undefined) to.splice(at + by, 0, one);
  return to;
}

function Editor({ id, stands, materials }: EditorProps) {
  const queryClient = useQueryClient();
  const [units, setUnits] = useState<Unit[]>(stands.units);
  const changed = JSON.stringify(units) !== JSON.stringify(stands.units);
  const save = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/classes/{id}/units", {
          params: { path: { id } },
          body: { version: stands.version, units },
        }),
      ),
    onSuccess: (saved) => queryClient.setQueryData(unitsQuery(id).queryKey, saved),
  });
  useBlocker({
    shouldBlockFn: () =>
      changed && !save.isPending && !window.confirm("The units are not saved. Leave without saving them?"),
    enableBeforeUnload: () => changed,
  });
  const change = (at: number, to: Partial<Unit>) =>
    setUnits(units.map((u, i) => (i === at ? { ...u, ...to } : u)));
  const taken = new Set(units.flatMap((u) => u.items).flatMap((i) => i.assignment ?? []));
  return (
    <>
      <p className={desk.dim}>
        Students find their class in this order. Anything in no unit is listed below them; a draft is shown to
        nobody before it is given out.
      </p>
      {units.map((unit, at) => (
        <section key={unit.id} className={classes.unit} aria-label={unit.title || `Unit ${at + 1}`}>
          <div className={classes.head}>
            <TextInput
              label={`Unit ${at + 1}`}
              maxLength={80}
              value={unit.title}
              placeholder="What it is called"
              onChange={(e) => change(at, { title: e.currentTarget.value })}
            />
            <TextInput
              className={classes.about}
              label="What it is about"
              maxLength={300}
              value={unit.about ?? ""}
              onChange={(e) => change(at, { about: e.currentTarget.value })}
            />
            <Select
              label="Its order"
              allowDeselect={false}
              data={[
                { value: "free", label: "does not matter" },
                { value: "advised", label: "is advised" },
                { value: "asked", label: "is asked for" },
              ]}
              value={unit.order}
              onChange={(to) => to && change(at, { order: to as Unit["order"] })}
            />
          </div>
          {unit.order === "asked" && (
            <p className={desk.dim}>
              An assignment opens once what stands before it is done: read, heard, at least steady, handed in
              or closed. What was begun stays open.
            </p>
          )}
          <ol className={classes.items}>
            {unit.items.map((item, place) => {
              const name = nameOf(item, materials);
              return (
                <li key={item.id}>
                  <span className={classes.name}>
                    {name.title} <span className={desk.dim}>{name.kind}</span>
                  </span>
                  <Button
                    size="compact-xs"
                    variant="default"
                    disabled={place === 0}
                    aria-label={`Move ${name.title} up`}
                    onClick={() => change(at, { items: moved(unit.items, place, -1) })}
                  >
                    Up
                  </Button>
                  <Button
                    size="compact-xs"
                    variant="default"
                    disabled={place === unit.items.length - 1}
                    aria-label={`Move ${name.title} down`}
                    onClick={() => change(at, { items: moved(unit.items, place, 1) })}
                  >
                    Down
                  </Button>
                  <Button
                    size="compact-xs"
                    variant="default"
                    aria-label={`Remove ${name.title}`}
                    onClick={() => change(at, { items: unit.items.filter((i) => i.id !== item.id) })}
                  >
                    Remove
                  </Button>
                </li>
              );
            })}
          </ol>
          <div className={classes.foot}>
            <Select
              // What was searched for goes with what was found.
              key={unit.items.length}
              aria-label={`Put something into unit ${at + 1}`}
              placeholder="Put something in"
              searchable
              value={null}
              data={choices(materials, unit, taken)}
              onChange={(to) => to && change(at, { items: [...unit.items, itemOf(to)] })}
              nothingFoundMessage="Nothing of this name"
            />
            <Button
              size="compact-sm"
              variant="default"
              disabled={at === 0}
              onClick={() => setUnits(moved(units, at, -1))}
            >
              Unit up
            </Button>
            <Button
              size="compact-sm"
              variant="default"
              disabled={at === units.length - 1}
              onClick={() => setUnits(moved(units, at, 1))}
            >
              Unit down
            </Button>
            <Button
              size="compact-sm"
              variant="default"
              onClick={() => setUnits(units.filter((u) => u.id !== unit.id))}
            >
              Delete the unit
            </Button>
          </div>
        </section>
      ))}
      {save.error && <Trouble error={save.error} />}
      <div className={desk.actions}>
        <Button
          variant="default"
          onClick={() =>
            setUnits([...units, { id: freshId(), title: "", about: "", order: "free", items: [] }])
          }
        >
          New unit
        </Button>
        <Button disabled={!changed} loading={save.isPending} onClick={() => save.mutate()}>
          Save
        </Button>
        <span role="status" className={desk.dim}>
          {changed ? "Not saved yet" : save.isSuccess || stands.version > 0 ? "Saved" : ""}
        </span>
      </div>
    </>
  );
}

function nameOf(item: Item, materials: Materials): { title: string; kind: string } {
  const gone = { title: "Something that is not there any more", kind: "" };
  switch (item.kind) {
    case "page": {
      const page = materials.pages.find((p) => p.skill === item.skill);
      return page ? { title: page.title, kind: "page" } : gone;
    }
    case "practice": {
      const skill = materials.practice.find((p) => p.skill === item.skill);
      return skill ? { title: skill.title, kind: "practice" } : gone;
    }
    case "recording": {
      const found = materials.recordings.find((r) => r.question === item.question && r.sound === item.sound);
      return found ? { title: found.title, kind: "recording" } : gone;
    }
    case "assignment": {
      const work = materials.assignments.find((a) => a.id === item.assignment);
      return work ? { title: work.title, kind: work.given_out ? "assignment" : "assignment, a draft" } : gone;
    }
  }
}

/** What could be put into a unit, by kind; what stands there already is left out. */
function choices(materials: Materials, unit: Unit, taken: Set<string>) {
  const has = (kind: Item["kind"], skill: string) =>
    unit.items.some((i) => i.kind === kind && i.skill === skill);
  const heard = (question: string, sound: string) =>
    unit.items.some((i) => i.question === question && i.sound === sound);
  return [
    {
      group: "Assignments",
      items: materials.assignments
        .filter((a) => !taken.has(a.id))
        .map((a) => ({ value: JSON.stringify({ kind: "assignment", assignment: a.id }), label: a.title })),
    },
    {
      group: "Pages",
      items: materials.pages
        .filter((p) => !has("page", p.skill))
        .map((p) => ({ value: JSON.stringify({ kind: "page", skill: p.skill }), label: `Page: ${p.title}` })),
    },
    {
      group: "Practice",
      items: materials.practice
        .filter((p) => !has("practice", p.skill))
        .map((p) => ({
          value: JSON.stringify({ kind: "practice", skill: p.skill }),
          label: `Practice: ${p.title}`,
        })),
    },
    {
      group: "Recordings",
      items: materials.recordings
        .filter((r) => !heard(r.question, r.sound))
        .map((r) => ({
          value: JSON.stringify({ kind: "recording", question: r.question, sound: r.sound }),
          label: `Recording: ${r.title}`,
        })),
    },
  ];
}

const itemOf = (choice: string): Item => ({ id: freshId(), ...JSON.parse(choice) });
