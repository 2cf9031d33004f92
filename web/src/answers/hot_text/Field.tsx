import { type KeyboardEvent, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Name } from "../../shared/Name";
import { Gaps, Prose } from "../../shared/Prose";
import type { FieldProps } from "../kinds";
import { Told } from "../Told";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

/** Words or phrases that are marked in a passage. One stop for Tab; arrow keys go from one to the next. */
export default function Field(props: FieldProps<"hot_text">) {
  const { part, name = part, entry, value, disabled, onChange } = props;
  const marked = Array.isArray(value) ? value : [];
  const root = useRef<HTMLDivElement>(null);
  const [stop, setStop] = useState<string | null>(null);
  const first = useRef<string | null>(null);
  first.current = null;
  const toggle = (id: string) => {
    const all = [...(root.current?.querySelectorAll<HTMLElement>("[data-hot]") ?? [])];
    const order = all.map((e) => e.dataset.hot ?? "");
    const now = marked.includes(id) ? marked.filter((m) => m !== id) : [...marked, id];
    onChange(now.sort((a, b) => order.indexOf(a) - order.indexOf(b)));
  };
  const walk = (e: KeyboardEvent) => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key];
    if (!step) return;
    e.preventDefault();
    const all = [...(root.current?.querySelectorAll<HTMLElement>("[data-hot]") ?? [])];
    const at = all.indexOf(document.activeElement as HTMLElement);
    all[Math.min(Math.max(at + step, 0), all.length - 1)]?.focus();
  };
  const fill = (gap: Schemas["GapView"]) => {
    first.current ??= gap.id;
    const member = props.members.find((m) => m.id === gap.id);
    const tried = !member && props.wrongBefore.includes(gap.id) && !entry.words;
    return (
      <>
        <button
          type="button"
          className={classes.hot}
          data-hot={gap.id}
          data-word={entry.words}
          aria-pressed={marked.includes(gap.id)}
          tabIndex={(stop ?? first.current) === gap.id ? 0 : -1}
          disabled={disabled}
          onFocus={() => setStop(gap.id)}
          onClick={() => toggle(gap.id)}
        >
          <Name content={gap.content} />
        </button>
        {member && <Told right={member.right} />}
        {tried && <Told right={false} words="marked before, not right" />}
      </>
    );
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a passage is no set of form fields with a legend
    <div role="group" aria-label="Passage to mark" data-part={name} ref={root} onKeyDown={walk}>
      {!disabled && (
        <p className={tiles.hint}>
          {entry.words ? "Press each word to mark it" : "Press what you want to mark"}; press again to unmark
          it.
        </p>
      )}
      <div className={classes.passage}>
        <Gaps.Provider value={fill}>
          <Prose blocks={entry.passage} />
        </Gaps.Provider>
      </div>
    </div>
  );
}
