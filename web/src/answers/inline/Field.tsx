import { NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Gaps, Prose } from "../../shared/Prose";
import { type FieldProps, fieldsOf, withField } from "../kinds";
import { Told } from "../Told";
import { BuildUp } from "../typed/BuildUp";
import { fieldInUse } from "../typed/inUse";
import { Keys } from "../typed/Keys";
import { ReadsAs } from "../typed/ReadsAs";
import { useTyping } from "../typed/useTyping";
import classes from "./Field.module.css";

type Gap = Schemas["InlineGapView"];

/** Gaps in a sentence or a table: typed into, or picked from a list. Keys and how it reads are those of the gap in use. */
export default function Field(props: FieldProps<"inline">) {
  const { assignment, question, part, name = part, entry, disabled, onChange } = props;
  const given = fieldsOf(props.value);
  const [used, setUsed] = useState<string | null>(null);
  const [focused, setFocused] = useState(false);
  const set = (id: string, text: string) => onChange(withField(given, id, text));
  const { input, type, typeResult } = useTyping((text) => used && set(used, text));
  const typed = entry.gaps.filter((g) => g.field);
  const now = typed.find((g) => g.id === used) ?? typed[0];
  const readsId = `reads-${question}-${name}`;
  const told = (id: string) => {
    const member = props.members.find((m) => m.id === id);
    return member && <Told right={member.right} />;
  };
  const typedGap = (gap: Gap, field: NonNullable<Gap["field"]>) => (
    <span className={classes.gap}>
      <TextInput
        aria-label={field.wanted ? `${gap.label}, ${field.wanted}` : gap.label}
        title={gap.label}
        value={given[gap.id] ?? ""}
        disabled={disabled}
        data-gap={gap.id}
        data-wide={(given[gap.id] ?? "").length > 12}
        aria-describedby={now === gap ? readsId : undefined}
        autoComplete="off"
        autoCapitalize="none"
        autoCorrect="off"
        spellCheck={false}
        maxLength={2100}
        onFocus={(e) => {
          input.current = e.currentTarget;
          setUsed(gap.id);
          fieldInUse(typeResult);
        }}
        onChange={(e) => set(gap.id, e.currentTarget.value)}
      />
      {field.unit && <span className={classes.unit}>{field.unit}</span>}
      {told(gap.id)}
    </span>
  );
  const listGap = (gap: Gap) => (
    <span className={classes.gap}>
      <NativeSelect
        aria-label={gap.label}
        value={given[gap.id] ?? ""}
        disabled={disabled}
        data-gap={gap.id}
        data={[
          { value: "", label: "choose…" },
          ...gap.choices.map((c) => ({ value: c.id, label: c.text.map(plain).join("") })),
        ]}
        onChange={(e) => set(gap.id, e.currentTarget.value)}
      />
      {told(gap.id)}
    </span>
  );
  const fill = (at: Schemas["GapView"]) => {
    const gap = entry.gaps.find((g) => g.id === at.id);
    if (!gap) return null;
    return gap.field ? typedGap(gap, gap.field) : listGap(gap);
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a passage is no set of form fields with a legend
    <div
      role="group"
      aria-label="Gaps to fill"
      data-part={name}
      onFocus={() => setFocused(true)}
      onBlur={(e) => setFocused(e.currentTarget.contains(e.relatedTarget as Node | null))}
    >
      <div className={classes.passage}>
        <Gaps.Provider value={fill}>
          <Prose blocks={entry.passage} />
        </Gaps.Provider>
      </div>
      {now?.field && !disabled && (
        <div className={classes.below}>
          {now.field.wanted && (
            <span className={classes.wanted}>
              {typed.length > 1 ? `Wanted for ${now.label}` : "Wanted"}: {now.field.wanted}
            </span>
          )}
          <Keys keys={now.field.keys} shown={focused && used === now.id} onType={type} />
          {now.field.keys.length > 0 && (
            <BuildUp
              assignment={assignment}
              question={question}
              part={`${part}/${now.id}`}
              label={now.label}
              entry={given[now.id] ?? ""}
              onChange={(text) => set(now.id, text)}
            />
          )}
          <ReadsAs
            assignment={assignment}
            question={question}
            part={`${part}/${now.id}`}
            name={name}
            entry={given[now.id] ?? ""}
            id={readsId}
          />
        </div>
      )}
    </div>
  );
}

const plain = (piece: Schemas["InlineView"]) => (typeof piece.value === "string" ? piece.value : "");
