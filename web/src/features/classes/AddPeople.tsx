import { Button, FileButton, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Trouble } from "../../shared/Trouble";
import classes from "./Desk.module.css";
import { classQuery } from "./queries";

type Props = { id: string; onAdded: (added: Schemas["AddedView"]) => void };

/** Students by a list, typed, pasted or from a file; and a second teacher. */
export function AddPeople({ id, onAdded }: Props) {
  const queryClient = useQueryClient();
  const [list, setList] = useState("");
  const [teacher, setTeacher] = useState({ name: "", user_name: "" });
  const params = { path: { id } };
  const done = async (added: Schemas["AddedView"]) => {
    onAdded(added);
    await queryClient.invalidateQueries({ queryKey: classQuery(id).queryKey });
  };
  const add = useMutation({
    mutationFn: () => ask(api.POST("/api/classes/{id}/students", { params, body: { list } })),
    onSuccess: async (added) => {
      // What was not taken stays, to be put right.
      setList(added.refused.map((r) => r.text).join("\n"));
      await done(added);
    },
  });
  const addTeacher = useMutation({
    mutationFn: () => ask(api.POST("/api/classes/{id}/teachers", { params, body: teacher })),
    onSuccess: async (added) => {
      setTeacher({ name: "", user_name: "" });
      await done(added);
    },
  });
  return (
    <>
      <section className={classes.section} aria-label="Add students">
        <h2>Add students</h2>
        <div className={classes.form}>
          <Textarea
            label="A line for each student"
            description="Name, user name, group. User name and group may be left out. You can paste from a spreadsheet."
            placeholder={"Ebba Tornvik, ebba, North\nJoss Harrowell"}
            autosize
            minRows={5}
            maxRows={14}
            value={list}
            onChange={(e) => setList(e.currentTarget.value)}
          />
          {add.error && <Trouble error={add.error} />}
          <div className={classes.actions}>
            <Button
              size="sm"
              disabled={list.trim() === ""}
              loading={add.isPending}
              onClick={() => add.mutate()}
            >
              Add them
            </Button>
            <FileButton
              accept=".csv,.txt,.tsv,text/csv,text/plain"
              onChange={(file) => {
                if (file) void file.text().then(setList);
              }}
            >
              {(props) => (
                <Button size="sm" variant="default" {...props}>
                  From a CSV file
                </Button>
              )}
            </FileButton>
          </div>
        </div>
      </section>
      <section className={classes.section} aria-label="A second teacher">
        <h2>A second teacher</h2>
        <details>
          <summary>Add a teacher</summary>
          <div className={classes.form}>
            <TextInput
              label="Name"
              value={teacher.name}
              onChange={(e) => setTeacher({ ...teacher, name: e.currentTarget.value })}
            />
            <TextInput
              label="User name"
              value={teacher.user_name}
              onChange={(e) => setTeacher({ ...teacher, user_name: e.currentTarget.value })}
            />
            {addTeacher.error && <Trouble error={addTeacher.error} />}
            <Button
              size="sm"
              variant="default"
              loading={addTeacher.isPending}
              onClick={() => addTeacher.mutate()}
            >
              Add the teacher
            </Button>
          </div>
        </details>
      </section>
    </>
  );
}
