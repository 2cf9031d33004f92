import { Button, Checkbox, FileButton, Loader, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ClipboardEvent, useState } from "react";
import { api, ask, type Schemas } from "../../../api/client";
import { Trouble } from "../../../shared/Trouble";
import { clock } from "../../../shared/when";
import { type Notes, useWorkings } from "../workings";
import { InkPad } from "./InkPad";
import classes from "./Workings.module.css";

type Props = { board: Schemas["BoardView"]; question: Schemas["QuestionView"]; person: string };

const LARGEST = 8 * 1024 * 1024;

/** Notes, ink and pictures of a question. Nothing of it is marked. */
export function WorkingsPanel({ board, question, person }: Props) {
  const notes = useWorkings(board.id, question.question, person);
  const [problem, setProblem] = useState("");
  const add = useMutation({
    mutationFn: (file: File) =>
      ask(
        api.POST("/api/assignments/{id}/questions/{question}/pictures", {
          params: { path: { id: board.id, question: question.question } },
          body: file as unknown as number[],
          bodySerializer: (body) => body as unknown as Blob,
          headers: { "content-type": "application/octet-stream" },
        }),
      ),
    onSuccess: () => notes?.reload(),
  });
  const take = (file: File | null | undefined) => {
    setProblem("");
    if (!file) return;
    if (file.size > LARGEST)
      setProblem("This picture is larger than 8 MB. Make it smaller, then add it again.");
    else add.mutate(file);
  };
  const onPaste = (e: ClipboardEvent) => {
    const picture = [...e.clipboardData.files].find((f) => f.type.startsWith("image/"));
    if (picture) {
      e.preventDefault();
      take(picture);
    }
  };
  if (!notes) return <Loader size="sm" aria-label="Loading your workings" />;
  return (
    <div onPaste={onPaste}>
      <p className={classes.dim}>Kept with the question, never marked.</p>
      {notes.elsewhere && <Elsewhere notes={notes} />}
      {notes.trouble && <p className={classes.trouble}>Kept in this browser. {notes.trouble}</p>}
      <Textarea
        label="Notes"
        autosize
        minRows={3}
        maxRows={14}
        maxLength={30_000}
        value={notes.notes}
        onChange={(e) => notes.change({ notes: e.currentTarget.value })}
        data-testid="notes"
      />
      <InkPad ink={notes.ink} onStroke={notes.addStroke} onChange={(ink) => notes.change({ ink })} />
      <Pictures board={board} notes={notes} />
      {problem && <Trouble error={new Error(problem)} />}
      {add.error && <Trouble error={add.error} />}
      <FileButton onChange={take} accept="image/png,image/jpeg,image/webp,image/gif">
        {(props) => (
          <Button {...props} size="sm" variant="default" loading={add.isPending}>
            Add a picture
          </Button>
        )}
      </FileButton>
      <p className={classes.dim}>Or paste one here: PNG, JPEG, WebP or GIF, 8 MB at most.</p>
      <Shared id={board.id} />
    </div>
  );
}

function Elsewhere({ notes }: { notes: Notes }) {
  return (
    <div role="alert" className={classes.elsewhere}>
      <p>
        Another window has changed these workings. Its notes:{" "}
        <q>{(notes.elsewhere?.notes ?? "").slice(0, 200) || "none"}</q>
      </p>
      <Button size="xs" variant="default" onClick={() => notes.settle(true)}>
        Keep this version
      </Button>{" "}
      <Button size="xs" variant="default" onClick={() => notes.settle(false)}>
        Use the other version
      </Button>
    </div>
  );
}

function Pictures({ board, notes }: { board: Schemas["BoardView"]; notes: Notes }) {
  const remove = useMutation({
    mutationFn: (picture: string) =>
      ask(
        api.DELETE("/api/assignments/{id}/pictures/{picture}", {
          params: { path: { id: board.id, picture } },
        }),
      ),
    onSuccess: () => notes.reload(),
  });
  const [asked, setAsked] = useState<string | null>(null);
  return (
    <ul className={classes.pictures}>
      {notes.pictures.map((p) => {
        const address = `/api/assignments/${board.id}/pictures/${p.id}`;
        return (
          <li key={p.id}>
            <a href={address}>
              <img src={address} alt={`Your picture, added ${clock(p.added_at)}`} />
            </a>
            <Button
              size="compact-xs"
              variant="subtle"
              onClick={() => (asked === p.id ? remove.mutate(p.id) : setAsked(p.id))}
            >
              {asked === p.id ? "Delete for good" : "Delete"}
            </Button>
          </li>
        );
      })}
    </ul>
  );
}

/** Whether the teacher may see notes and ink. */
function Shared({ id }: { id: string }) {
  const queryClient = useQueryClient();
  const key = ["workings-shared", id];
  const params = { path: { id } };
  const stands = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET("/api/assignments/{id}/workings-shared", { params })),
  });
  const change = useMutation({
    mutationFn: (shared: boolean) =>
      ask(api.PUT("/api/assignments/{id}/workings-shared", { params, body: { shared } })),
    onSuccess: (now) => queryClient.setQueryData(key, now),
  });
  return (
    <>
      <Checkbox
        mt={10}
        label="Your teacher may see notes and ink of this assignment"
        checked={change.isPending ? change.variables : (stands.data?.shared ?? false)}
        disabled={!stands.data}
        onChange={(e) => change.mutate(e.currentTarget.checked)}
      />
      {change.error && <Trouble error={change.error} />}
    </>
  );
}
