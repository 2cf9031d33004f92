import { NumberInput } from "@mantine/core";
import { type ClipboardEvent, type KeyboardEvent, useRef, useState } from "react";
import type { FieldProps } from "../kinds";
import { Told } from "../Told";
import { BuildUp } from "../typed/BuildUp";
import { fieldInUse } from "../typed/inUse";
import { Keys } from "../typed/Keys";
import { ReadsAs } from "../typed/ReadsAs";
import { useTyping } from "../typed/useTyping";
import classes from "./Field.module.css";

/** A grid of so many rows and columns, with what was in another one of it. */
const sized = (grid: string[][], rows: number, columns: number) =>
  Array.from({ length: rows }, (_, i) => Array.from({ length: columns }, (_, j) => grid[i]?.[j] ?? ""));

/** A grid of cells; arrow keys and Enter go from cell to cell, and a block of cells can be pasted. */
export default function Field(props: FieldProps<"matrix">) {
  const { assignment, question, part, name = part, entry, value, disabled, onChange } = props;
  const kept = value && typeof value === "object" && "grid" in value ? value.grid : [];
  const { rows, columns } = entry.size ?? { rows: kept.length || 2, columns: kept[0]?.length || 2 };
  const grid = sized(kept, rows, columns);
  const [at, setAt] = useState<[number, number]>([0, 0]);
  const [focused, setFocused] = useState(false);
  const frame = useRef<HTMLDivElement>(null);
  const set = (i: number, j: number, text: string) => {
    const now = sized(grid, rows, columns);
    const row = now[i];
    if (row) row[j] = text;
    onChange({ grid: now });
  };
  const { input, type, typeResult } = useTyping((text) => set(at[0], at[1], text));
  const go = (i: number, j: number) => {
    frame.current?.querySelector<HTMLInputElement>(`[data-cell="${i + 1},${j + 1}"]`)?.focus();
  };
  const onKey = (e: KeyboardEvent<HTMLInputElement>, i: number, j: number) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const field = e.currentTarget;
    const start = field.selectionStart === 0 && field.selectionEnd === 0;
    const end = field.selectionStart === field.value.length;
    const to: [number, number] | undefined =
      e.key === "ArrowDown" || e.key === "Enter"
        ? [i + 1, j]
        : e.key === "ArrowUp"
          ? [i - 1, j]
          : e.key === "ArrowLeft" && start
            ? [i, j - 1]
            : e.key === "ArrowRight" && end
              ? [i, j + 1]
              : undefined;
    if (!to) return;
    e.preventDefault();
    go(...to);
  };
  /** Cells of a spreadsheet, which come with tabs and line breaks between them. */
  const onPaste = (e: ClipboardEvent, i: number, j: number) => {
    const text = e.clipboardData.getData("text/plain").replace(/\r?\n$/, "");
    if (!/[\t\n]/.test(text)) return;
    e.preventDefault();
    const block = text.split(/\r?\n/).map((line) => line.split("\t").map((cell) => cell.trim()));
    const wide = Math.max(...block.map((row) => row.length));
    const most = (n: number) => Math.min(n, entry.largest);
    const r = entry.size ? rows : most(Math.max(rows, i + block.length));
    const c = entry.size ? columns : most(Math.max(columns, j + wide));
    const now = sized(grid, r, c);
    block.forEach((row, y) => {
      row.forEach((cell, x) => {
        const into = now[i + y];
        if (into && j + x < c) into[j + x] = cell;
      });
    });
    onChange({ grid: now });
  };
  const told = (i: number, j: number) => {
    const member = props.members.find((m) => m.id === `${i + 1},${j + 1}`);
    return member && <Told right={member.right} />;
  };
  const readsId = `reads-${question}-${name}`;
  const named = (i: number, j: number) => {
    const row = entry.row_names[i] ?? `row ${i + 1}`;
    return `${entry.label}: ${row}, ${entry.column_names[j] ?? `column ${j + 1}`}`;
  };
  const count = (label: string, now: number, change: (n: number) => void) => (
    <NumberInput
      label={label}
      min={1}
      max={entry.largest}
      value={now}
      disabled={disabled}
      allowDecimal={false}
      clampBehavior="strict"
      onChange={(n) => typeof n === "number" && n >= 1 && change(n)}
    />
  );
  return (
    // biome-ignore lint/a11y/useSemanticElements: a grid of cells is no set of form fields with a legend
    <div
      role="group"
      aria-label={entry.label}
      data-part={name}
      ref={frame}
      onFocus={() => setFocused(true)}
      onBlur={(e) => setFocused(e.currentTarget.contains(e.relatedTarget as Node | null))}
    >
      <p className={classes.label}>{entry.label}</p>
      {entry.field.wanted && <p className={classes.wanted}>Wanted: {entry.field.wanted}</p>}
      {!entry.size && (
        <div className={classes.size}>
          {count("Rows", rows, (n) => onChange({ grid: sized(grid, n, columns) }))}
          {count("Columns", columns, (n) => onChange({ grid: sized(grid, rows, n) }))}
        </div>
      )}
      <div className={classes.frame}>
        <table className={classes.grid} data-bracket={entry.row_names.length === 0}>
          {entry.column_names.length > 0 && (
            <thead>
              <tr>
                {entry.row_names.length > 0 && <td />}
                {entry.column_names.map((column) => (
                  <th key={column} scope="col">
                    {column}
                  </th>
                ))}
              </tr>
            </thead>
          )}
          <tbody>
            {grid.map((row, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows are told apart by their place
              <tr key={i}>
                {entry.row_names[i] && <th scope="row">{entry.row_names[i]}</th>}
                {row.map((cell, j) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: cells are told apart by their place
                  <td key={j}>
                    <span className={classes.cell}>
                      <input
                        value={cell}
                        disabled={disabled}
                        aria-label={named(i, j)}
                        aria-describedby={at[0] === i && at[1] === j ? readsId : undefined}
                        data-cell={`${i + 1},${j + 1}`}
                        autoComplete="off"
                        autoCapitalize="none"
                        spellCheck={false}
                        maxLength={200}
                        onFocus={(e) => {
                          input.current = e.currentTarget;
                          setAt([i, j]);
                          fieldInUse(typeResult);
                        }}
                        onKeyDown={(e) => onKey(e, i, j)}
                        onPaste={(e) => onPaste(e, i, j)}
                        onChange={(e) => set(i, j, e.currentTarget.value)}
                      />
                      {told(i, j)}
                    </span>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {!disabled && (
        <>
          <Keys keys={entry.field.keys} shown={focused} onType={type} />
          {entry.field.keys.length > 0 && (
            <BuildUp
              assignment={assignment}
              question={question}
              part={part}
              label={named(...at)}
              entry={grid[at[0]]?.[at[1]] ?? ""}
              onChange={(text) => set(at[0], at[1], text)}
            />
          )}
          <ReadsAs
            assignment={assignment}
            question={question}
            part={part}
            name={name}
            entry={grid[at[0]]?.[at[1]] ?? ""}
            id={readsId}
          />
        </>
      )}
    </div>
  );
}
