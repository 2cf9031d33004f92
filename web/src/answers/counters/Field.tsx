import { Button } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { type FieldProps, fieldsOf, type Response } from "../kinds";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

type Thing = Schemas["CountedThing"];

export const shapes: Record<Thing, string> = {
  bolt: "M13 7h14l4 7-4 7h-3v14h-8V21h-3l-4-7z",
  cell: "M9 11h22v24H9zM16 6h8v5h-8zM14 22h12",
  helmet: "M6 27a14 14 0 0 1 28 0zM4 27h32v4H4zM20 8v8",
  lamp: "M20 6a10 10 0 0 1 6 18v5H14v-5a10 10 0 0 1 6-18zM15 33h10",
  barrel: "M9 8c7-3 15-3 22 0v25c-7 3-15 3-22 0zM9 16h22M9 26h22",
};

const names: Record<Thing, string> = {
  bolt: "Bolt",
  cell: "Cell",
  helmet: "Helmet",
  lamp: "Lamp",
  barrel: "Barrel",
};

const sortedFields = (fields: Record<string, string>): Response => {
  const ids = Object.keys(fields).filter((id) => fields[id]);
  return { fields: Object.fromEntries(ids.sort().map((id) => [id, fields[id] ?? ""])) };
};

/** Things that are counted: crossed out, taken away, added or put into groups. */
export default function Field(props: FieldProps<"counters">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const given = fieldsOf(props.value);
  const [picked, setPicked] = useState<string[]>([]);
  const { action, thing } = entry;
  const first = Array.from({ length: entry.start }, (_, n) => String(n + 1));
  const added = Object.keys(given).filter((id) => id.startsWith("a"));
  const groups = [...new Set(Object.values(given))].sort();
  const touched = Object.keys(given).length;
  const press = (id: string) => {
    if (action === "add") return;
    if (action === "group") {
      if (given[id]) onChange(sortedFields({ ...given, [id]: "" }));
      else setPicked(picked.includes(id) ? picked.filter((p) => p !== id) : [...picked, id]);
      return;
    }
    onChange(sortedFields({ ...given, [id]: given[id] ? "" : "out" }));
  };
  const makeGroup = () => {
    const free = Array.from({ length: 40 }, (_, n) => `g${n + 1}`).find((g) => !groups.includes(g)) ?? "g40";
    onChange(sortedFields({ ...given, ...Object.fromEntries(picked.map((id) => [id, free])) }));
    setPicked([]);
  };
  const add = (n: number) => {
    const count = Math.max(0, Math.min(added.length + n, entry.most - entry.start));
    onChange(sortedFields(Object.fromEntries(Array.from({ length: count }, (_, k) => [`a${k + 1}`, "in"]))));
  };
  const state = (id: string) => {
    if (id.startsWith("a")) return "in";
    if (given[id] !== "out") return "there";
    return action === "take_away" ? "gone" : "out";
  };
  const stands = (id: string) => {
    if (given[id]?.startsWith("g")) return `in group ${groups.indexOf(given[id] ?? "") + 1}`;
    if (picked.includes(id)) return "picked";
    return { out: "crossed out", gone: "taken away", in: "added", there: "there" }[state(id)];
  };
  const all = action === "add" ? [...first, ...added.map((_, n) => `a${n + 1}`)] : first;
  const counted = {
    cross_out: `${touched} crossed out, ${entry.start - touched} left`,
    take_away: `${touched} taken away, ${entry.start - touched} left`,
    add: `${added.length} added, ${entry.start + added.length} in all`,
    group: `${groups.length} ${groups.length === 1 ? "group" : "groups"}, ${entry.start - touched} by themselves`,
  }[action];
  const hint = {
    cross_out: "Press a thing to cross it out; press again to undo it.",
    take_away: "Press a thing to take it away; press again to put it back.",
    add: "Add things with the buttons.",
    group:
      "Press the things that belong together, then make a group of them. Press one in a group to take it out.",
  }[action];
  return (
    // biome-ignore lint/a11y/useSemanticElements: things on a picture are no form fields with a legend
    <div role="group" aria-label={entry.label} data-part={name}>
      {!disabled && <p className={tiles.hint}>{hint}</p>}
      <ul className={classes.things} aria-label={entry.label}>
        {all.map((id, n) => (
          <li key={id}>
            <button
              type="button"
              className={classes.thing}
              data-thing={id}
              data-state={state(id)}
              data-picked={picked.includes(id)}
              aria-label={`${names[thing]} ${n + 1}: ${stands(id)}`}
              disabled={disabled || action === "add"}
              onClick={() => press(id)}
            >
              <svg viewBox="0 0 40 40" aria-hidden="true">
                {state(id) !== "gone" && (
                  <path
                    d={shapes[thing]}
                    fill="none"
                    stroke="currentColor"
                    strokeWidth="2"
                    strokeLinejoin="round"
                  />
                )}
                {state(id) === "out" && (
                  <path d="M4 36L36 4" stroke="var(--clay)" strokeWidth="3" strokeLinecap="round" />
                )}
              </svg>
              {given[id]?.startsWith("g") && (
                <span className={classes.group}>{groups.indexOf(given[id] ?? "") + 1}</span>
              )}
            </button>
          </li>
        ))}
      </ul>
      <div className={classes.bar}>
        {action === "add" && !disabled && (
          <>
            <Button variant="default" size="sm" onClick={() => add(1)}>
              Add one
            </Button>
            <Button variant="default" size="sm" disabled={added.length === 0} onClick={() => add(-1)}>
              Take one off
            </Button>
          </>
        )}
        {action === "group" && !disabled && (
          <Button variant="default" size="sm" disabled={picked.length === 0} onClick={makeGroup}>
            Make a group of {picked.length || "these"}
          </Button>
        )}
        <p className={classes.count} aria-live="polite">
          {counted}
        </p>
      </div>
    </div>
  );
}
