import { Button, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import { Trouble } from "../../shared/Trouble";
import classes from "./Marks.module.css";

const PAUSE = 600;

type Props = { mark: Schemas["MarkView"]; focused?: boolean };

/** One mark: what was marked, the note beside it, kept as it is typed. */
export function MarkLine({ mark, focused = false }: Props) {
  const queryClient = useQueryClient();
  const spare = `green-slate/mark/${mark.id}`;
  const [note, setNote] = useState(() => findSpare<string>(spare) ?? mark.note);
  const kept = useRef(mark.note);
  const field = useRef<HTMLTextAreaElement>(null);
  const path = { params: { path: { id: mark.id } } };
  const save = useMutation({
    mutationFn: (text: string) => ask(api.PUT("/api/marks/{id}", { ...path, body: { note: text } })),
    retry: 5,
    onSuccess: (_, text) => {
      kept.current = text;
      if (findSpare<string>(spare) === text) dropSpare(spare);
      void queryClient.invalidateQueries({ queryKey: ["marks"] });
    },
  });
  const { mutate } = save;
  useEffect(() => {
    if (note === kept.current) return;
    holdSpare(spare, note);
    const timer = window.setTimeout(() => mutate(note), PAUSE);
    return () => window.clearTimeout(timer);
  }, [note, spare, mutate]);
  useEffect(() => {
    if (focused) field.current?.focus();
  }, [focused]);
  const drop = useMutation({
    mutationFn: () => ask(api.DELETE("/api/marks/{id}", path)),
    onSuccess: () => {
      dropSpare(spare);
      return queryClient.invalidateQueries({ queryKey: ["marks"] });
    },
  });
  return (
    <li className={classes.line} data-gone={mark.found ? undefined : true}>
      <blockquote>{mark.quote.exact}</blockquote>
      {!mark.found && <p className={classes.changed}>The text changed here: the page no longer says this.</p>}
      <Textarea
        ref={field}
        size="sm"
        autosize
        minRows={1}
        maxRows={8}
        maxLength={2000}
        aria-label={`Note to: ${mark.quote.exact}`}
        placeholder="Your note"
        value={note}
        onChange={(e) => setNote(e.currentTarget.value)}
      />
      <div className={classes.row}>
        <span
          className={classes.dim}
          data-testid="note-kept"
          data-kept={note === kept.current && !save.isPending}
        >
          {save.isPending ? "Saving…" : note === kept.current ? "Saved" : "Not saved yet"}
        </span>
        <Button size="compact-sm" variant="subtle" loading={drop.isPending} onClick={() => drop.mutate()}>
          Delete the mark
        </Button>
      </div>
      {(save.error ?? drop.error) && <Trouble error={(save.error ?? drop.error) as Error} />}
    </li>
  );
}
