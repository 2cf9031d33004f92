import { useId } from "react";
import { Line } from "../../shared/Prose";
import { type FieldProps, pairsOf } from "../kinds";
import { Told } from "../Told";
import classes from "./Field.module.css";

/** Rows joined to columns: a table of buttons, row by row on a phone. */
export default function Field(props: FieldProps<"match">) {
  const { part, name = part, entry, disabled, onChange } = props;
  const pairs = pairsOf(props.value);
  const id = useId();
  const joined = (row: string, column: string) => pairs.some(([r, c]) => r === row && c === column);
  const join = (row: string, column: string, on: boolean) => {
    const others = pairs.filter(([r, c]) => r !== row || (entry.several && c !== column));
    const all = on ? [...others, [row, column]] : others;
    const place = (pair: string[]) =>
      entry.rows.findIndex((r) => r.id === pair[0]) * 100 + entry.columns.findIndex((c) => c.id === pair[1]);
    onChange({ pairs: all.sort((a, b) => place(a) - place(b)) });
  };
  const told = (row: string, column: string) => {
    const key = `${row}=${column}`;
    const member = props.members.find((m) => m.id === key);
    if (member) return <Told right={member.right} />;
    return props.wrongBefore.includes(key) && <Told right={false} words="tried before, not right" />;
  };
  return (
    <table className={classes.table} data-part={name}>
      <thead>
        <tr>
          <td />
          {entry.columns.map((column) => (
            <th key={column.id} scope="col" id={`${id}-${column.id}`}>
              <Line content={column.text} />
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {entry.rows.map((row) => (
          <tr key={row.id}>
            <th scope="row" id={`${id}-${row.id}`}>
              <Line content={row.text} />
            </th>
            {entry.columns.map((column) => (
              <td key={column.id}>
                <label className={classes.cell}>
                  <input
                    type={entry.several ? "checkbox" : "radio"}
                    name={`${id}-${row.id}`}
                    checked={joined(row.id, column.id)}
                    disabled={disabled}
                    data-pair={`${row.id}=${column.id}`}
                    aria-labelledby={`${id}-${row.id} ${id}-${row.id}-${column.id}`}
                    onChange={(e) => join(row.id, column.id, e.currentTarget.checked)}
                  />
                  <span className={classes.narrow} id={`${id}-${row.id}-${column.id}`}>
                    <Line content={column.text} />
                  </span>
                  {told(row.id, column.id)}
                </label>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
