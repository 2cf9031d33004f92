import { Link } from "@tanstack/react-router";
import {
  type ColumnDef,
  flexRender,
  getCoreRowModel,
  getSortedRowModel,
  type Header,
  type SortingState,
  useReactTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { dayMonth } from "../../shared/when";
import classes from "./Sheet.module.css";
import { SheetCell } from "./SheetCell";

type Student = Schemas["SheetStudent"];
type Props = {
  id: string;
  assignments: Schemas["SheetAssignment"][];
  students: Student[];
  chosen: string[];
  onChoose: (ids: string[]) => void;
};

const ROW = 82;
const COLUMN = 178;

/** The sheet's table: only the rows and columns that can be seen are on the page. */
export function SheetTable({ id, assignments, students, chosen, onChoose }: Props) {
  const [sorting, setSorting] = useState<SortingState>([]);
  const columns = useMemo<ColumnDef<Student>[]>(
    () => [
      { id: "name", header: "Student", accessorFn: (s) => s.name.toLowerCase() },
      ...assignments.map(
        (a, at): ColumnDef<Student> => ({
          id: a.id,
          header: a.title,
          // Nothing recorded sorts below a recorded nought.
          accessorFn: (s) => s.cells[at]?.recorded ?? (s.cells[at] ? -1 : -2),
          sortDescFirst: true,
        }),
      ),
    ],
    [assignments],
  );
  const table = useReactTable({
    data: students,
    columns,
    state: { sorting },
    onSortingChange: setSorting,
    getRowId: (s) => s.id,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  const rows = table.getRowModel().rows;
  const scroller = useRef<HTMLElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 8,
  });
  const across = useVirtualizer({
    horizontal: true,
    count: assignments.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => COLUMN,
    overscan: 2,
  });
  const columnsShown = across.getVirtualItems();
  const before = columnsShown[0]?.start ?? 0;
  const after = across.getTotalSize() - (columnsShown[columnsShown.length - 1]?.end ?? 0);
  const shown = virtual.getVirtualItems();
  const above = shown[0]?.start ?? 0;
  const below = virtual.getTotalSize() - (shown[shown.length - 1]?.end ?? 0);
  const choose = (person: string) =>
    onChoose(chosen.includes(person) ? chosen.filter((c) => c !== person) : [...chosen, person]);
  const headers = table.getHeaderGroups()[0]?.headers ?? [];
  const sorted = (of: string) => {
    const by = sorting.find((s) => s.id === of);
    return by ? (by.desc ? "descending" : "ascending") : "none";
  };
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls must be reached by keyboard
    <section ref={scroller} className={classes.scroller} aria-label="The class sheet" tabIndex={0}>
      <table className={classes.sheet} aria-rowcount={rows.length + 1} aria-colcount={assignments.length + 1}>
        <thead>
          <tr>
            {headers[0] && <Head header={headers[0]} sorted={sorted("name")} />}
            {before > 0 && <td style={{ minWidth: before }} />}
            {columnsShown.map((column) => {
              const header = headers[column.index + 1];
              const assignment = assignments[column.index];
              return (
                header && (
                  <Head
                    key={header.id}
                    header={header}
                    sorted={sorted(header.id)}
                    assignment={assignment}
                    place={column.index + 2}
                  />
                )
              );
            })}
            {after > 0 && <td style={{ minWidth: after }} />}
          </tr>
        </thead>
        <tbody>
          {above > 0 && (
            <tr style={{ height: above }}>
              <td />
            </tr>
          )}
          {shown.map((item) => {
            const row = rows[item.index];
            if (!row) return null;
            const student = row.original;
            return (
              <tr
                key={student.id}
                ref={virtual.measureElement}
                data-index={item.index}
                aria-rowindex={item.index + 2}
                style={{ height: ROW }}
              >
                <th scope="row">
                  <label>
                    <input
                      type="checkbox"
                      checked={chosen.includes(student.id)}
                      onChange={() => choose(student.id)}
                    />
                    {student.name}
                  </label>
                  <span className={classes.due}>
                    {[student.group, student.unseen ? "not seen for a week" : ""].filter(Boolean).join(" · ")}
                  </span>
                </th>
                {before > 0 && <td style={{ minWidth: before }} />}
                {columnsShown.map((column) => {
                  const assignment = assignments[column.index];
                  const cell = student.cells[column.index];
                  if (!assignment) return null;
                  return (
                    <td key={assignment.id} aria-colindex={column.index + 2}>
                      {cell ? (
                        <Link
                          to="/classes/$id/students/$person/$assignment"
                          params={{ id, person: student.id, assignment: assignment.id }}
                          className={classes.cell}
                        >
                          <span className="only-spoken">
                            {student.name}, {assignment.title}:{" "}
                          </span>
                          <SheetCell cell={cell} />
                        </Link>
                      ) : (
                        <span className={classes.due}>not set</span>
                      )}
                    </td>
                  );
                })}
                {after > 0 && <td style={{ minWidth: after }} />}
              </tr>
            );
          })}
          {below > 0 && (
            <tr style={{ height: below }}>
              <td />
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}

type HeadProps = {
  header: Header<Student, unknown>;
  sorted: "ascending" | "descending" | "none";
  assignment?: Props["assignments"][number] | undefined;
  place?: number;
};

/** The head of a column, which sorts by it. */
function Head({ header, sorted, assignment, place = 1 }: HeadProps) {
  return (
    <th scope="col" aria-sort={sorted} aria-colindex={place}>
      <button type="button" onClick={header.column.getToggleSortingHandler()}>
        {flexRender(header.column.columnDef.header, header.getContext())}
        <span aria-hidden="true">{{ ascending: " ▲", descending: " ▼", none: "" }[sorted]}</span>
      </button>
      {assignment && (
        <span className={classes.due}>
          due {dayMonth(assignment.due)}
          {assignment.counts ? "" : ", does not count"}
          {assignment.pass_mark != null && `, pass ${assignment.pass_mark} %`}
        </span>
      )}
    </th>
  );
}
