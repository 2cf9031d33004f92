import { type KeyboardEvent, useRef, useState } from "react";
import { Line } from "../../shared/Prose";
import { type FieldProps, pairsOf } from "../kinds";
import { Told } from "../Told";
import tiles from "../tiles/Tiles.module.css";
import classes from "./Field.module.css";

/** Marks on a figure of fixed rows and columns. One stop for Tab; arrow keys go from place to place. */
export default function Field(props: FieldProps<"place">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const pairs = pairsOf(props.value);
  const [stop, setStop] = useState<[number, number]>([0, 0]);
  const root = useRef<HTMLDivElement>(null);
  const marked = (row: string, column: string) => pairs.some(([r, c]) => r === row && c === column);
  const press = (row: string, column: string) => {
    const on = !marked(row, column);
    const others = pairs.filter(([r, c]) =>
      entry.one_per_column ? c !== column : r !== row || c !== column,
    );
    const place = (pair: string[]) =>
      entry.rows.findIndex((r) => r.id === pair[0]) * 100 + entry.columns.findIndex((c) => c.id === pair[1]);
    const all = on ? [...others, [row, column]] : others;
    onChange({ pairs: all.sort((a, b) => place(a) - place(b)) });
  };
  const walk = (e: KeyboardEvent, i: number, j: number) => {
    const step = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[e.key];
    if (!step) return;
    e.preventDefault();
    const to = `[data-at="${i + (step[0] ?? 0)},${j + (step[1] ?? 0)}"]`;
    root.current?.querySelector<HTMLElement>(to)?.focus();
  };
  const told = (row: string, column: string) => {
    const key = `${row}=${column}`;
    const member = props.members.find((m) => m.id === key);
    if (member) return <Told right={member.right} />;
    return props.wrongBefore.includes(key) && <Told right={false} words="tried before, not right" />;
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: places on a figure are no form fields with a legend
    <div role="group" aria-label={entry.label} data-part={name} ref={root}>
      {!disabled && (
        <p className={tiles.hint}>
          {entry.one_per_column
            ? "Press one place in each column."
            : "Press a place to mark it; press again to take the mark off."}
        </p>
      )}
      <div className={classes.frame}>
        <table className={classes.grid} data-look={entry.look}>
          <thead>
            <tr>
              <td />
              {entry.columns.map((column) => (
                <th key={column.id} scope="col">
                  <Line content={column.text} />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {entry.rows.map((row, i) => (
              <tr key={row.id} data-line={i % 2 === 0}>
                <th scope="row">
                  <Line content={row.text} />
                </th>
                {entry.columns.map((column, j) => (
                  <td key={column.id}>
                    <button
                      type="button"
                      className={classes.cell}
                      data-at={`${i},${j}`}
                      data-pair={`${row.id}=${column.id}`}
                      aria-pressed={marked(row.id, column.id)}
                      tabIndex={stop[0] === i && stop[1] === j ? 0 : -1}
                      disabled={disabled}
                      onFocus={() => setStop([i, j])}
                      onKeyDown={(e) => walk(e, i, j)}
                      onClick={() => press(row.id, column.id)}
                    >
                      <span className="only-spoken">
                        <Line content={row.text} />, <Line content={column.text} />
                      </span>
                    </button>
                    <span className={classes.told}>{told(row.id, column.id)}</span>
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
