import { Button, Select, Skeleton, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import { Trouble } from "../../shared/Trouble";
import { ClassFrame } from "./ClassFrame";
import classes from "./Desk.module.css";
import { ExceptionForm } from "./ExceptionForm";
import { type Filter, filters, shownStudents } from "./filters";
import { sheetQuery } from "./queries";
import { SheetTable } from "./SheetTable";
import { SuggestedStrip } from "./SuggestedStrip";

/** Where everybody stands: students down, assignments across. */
export function SheetPage() {
  const { id } = useParams({ from: "/signed-in/classes/$id" });
  const { show = "all" } = useSearch({ from: "/signed-in/classes/$id" });
  const navigate = useNavigate();
  const sheet = useQuery(sheetQuery(id));
  const [words, setWords] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const [excepting, setExcepting] = useState(false);
  const students = useMemo(
    () => shownStudents(sheet.data?.students ?? [], show, words),
    [sheet.data, show, words],
  );
  const filter = (to: Filter) =>
    navigate({ to: "/classes/$id", params: { id }, search: to === "all" ? {} : { show: to }, replace: true });
  return (
    <ClassFrame id={id} here="Sheet">
      {sheet.error && <Trouble error={sheet.error} />}
      {sheet.isPending && <Skeleton height={420} aria-label="Loading the sheet" />}
      {sheet.data && sheet.data.students.length === 0 && (
        <p>Once students are in the class, this shows where everybody stands. Add them under People.</p>
      )}
      {sheet.data && sheet.data.students.length > 0 && (
        <>
          <div className={classes.actions}>
            <TextInput
              aria-label="Find a student"
              placeholder="Find a student or group"
              value={words}
              onChange={(e) => setWords(e.currentTarget.value)}
            />
            <Select
              aria-label="Show"
              allowDeselect={false}
              data={filters}
              value={show}
              onChange={(to) => to && filter(to as Filter)}
            />
            <span className={classes.dim} role="status">
              {students.length} of {sheet.data.students.length} shown
            </span>
            <Button component="a" variant="default" size="sm" href={`/api/classes/${id}/sheet.csv`} download>
              Download CSV
            </Button>
            {chosen.length > 0 && (
              <Button size="sm" onClick={() => setExcepting(true)}>
                Exception for {chosen.length}
              </Button>
            )}
          </div>
          {excepting && (
            <ExceptionForm
              id={id}
              students={sheet.data.students.filter((s) => chosen.includes(s.id))}
              assignments={sheet.data.assignments}
              onDone={(given) => {
                setExcepting(false);
                if (given) setChosen([]);
              }}
            />
          )}
          <SuggestedStrip id={id} />
          <SheetTable
            id={id}
            assignments={sheet.data.assignments}
            students={students}
            chosen={chosen}
            onChoose={setChosen}
          />
        </>
      )}
    </ClassFrame>
  );
}
