import { Button, NumberInput, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Given } from "../../shared/Given";
import { Line, Prose } from "../../shared/Prose";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import { Trouble } from "../../shared/Trouble";
import { moment, points } from "../../shared/when";
import classes from "./Marking.module.css";
import { toMarkQuery } from "./queries";

type Props = {
  assignment: string;
  question: number;
  of: number;
  answer: Schemas["AnswerToMark"];
  name: string;
  /** Who marks: others may sign in at this browser. */
  person: string;
  /** Notes that were given here before. */
  notes: string[];
  onNext: () => void;
};

/** As it stands in the fields: "4." is on its way to be a number. */
type Half = { points: number | string; note: string };

/** One student's answer, with the points and the note that it is given. */
export function Answer({ assignment, question, of, answer, name, person, notes, onNext }: Props) {
  const queryClient = useQueryClient();
  const key = `green-slate/${person}/marking/${assignment}/${question}/${answer.student}/${answer.hand_in}`;
  const stands: Half = { points: answer.given?.points ?? "", note: answer.given?.note ?? "" };
  // What was begun and not given yet is still here.
  const [half, setHalf] = useState<Half>(() => findSpare<Half>(key) ?? stands);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  const change = (to: Partial<Half>) => {
    const now = { ...half, ...to };
    setHalf(now);
    holdSpare(key, now);
  };
  const give = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/marking/{id}/{question}/{student}", {
          params: { path: { id: assignment, question, student: answer.student } },
          body: { points: value, note: half.note, hand_in: answer.hand_in },
        }),
      ),
    onSuccess: async () => {
      dropSpare(key);
      await queryClient.invalidateQueries({ queryKey: toMarkQuery(assignment, question).queryKey });
      onNext();
    },
  });
  const typed = String(half.points).trim();
  const value = Number(typed);
  const ready = typed !== "" && value >= 0 && value <= of;
  const changed = typed !== String(stands.points) || half.note !== stands.note;
  const onKey = (e: KeyboardEvent) => {
    if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey) || !ready || give.isPending) return;
    e.preventDefault();
    give.mutate();
  };
  const others = notes.filter((n) => n !== half.note);
  return (
    <article className={classes.answer} aria-label={`Answer of ${name}`} onKeyDown={onKey}>
      <header>
        <h2>{name}</h2>
        <span className={classes.dim}>
          handed in {moment(answer.at)}
          {answer.late ? ", late" : ""}
        </span>
      </header>
      <Prose blocks={answer.text} />
      {answer.parts.map((part) => (
        <div key={part.id} className={classes.part}>
          {part.prompt.length > 0 && <Prose blocks={part.prompt} />}
          {part.given ? (
            <Given label={answer.parts.length > 1 ? `(${part.id})` : undefined} given={part.given} />
          ) : (
            <p className={classes.dim}>{answer.parts.length > 1 && `(${part.id}) `}Nothing was given here.</p>
          )}
          {part.model.length > 0 && (
            <details>
              <summary>What a good answer says</summary>
              {part.model.map((line, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
                <p key={i}>
                  <Line content={line} />
                </p>
              ))}
            </details>
          )}
        </div>
      ))}
      <div className={classes.give}>
        <NumberInput
          ref={field}
          label={`Points of ${of}`}
          description={
            answer.earned > 0 ? `${points(answer.earned)} came from parts that are checked` : undefined
          }
          min={0}
          max={of}
          step={0.5}
          decimalScale={2}
          clampBehavior="none"
          value={half.points}
          error={typed !== "" && !ready ? `From 0 to ${of}` : undefined}
          onChange={(n) => change({ points: n })}
        />
        <Textarea
          label="Note to the student"
          autosize
          minRows={2}
          maxLength={4000}
          value={half.note}
          onChange={(e) => change({ note: e.currentTarget.value })}
        />
        {others.length > 0 && (
          <details>
            <summary>Notes you gave before</summary>
            {others.map((note) => (
              <button key={note} type="button" className={classes.note} onClick={() => change({ note })}>
                {note}
              </button>
            ))}
          </details>
        )}
        {give.error && <Trouble error={give.error} />}
        <div className={classes.actions}>
          <Button
            onClick={() => give.mutate()}
            disabled={!ready}
            loading={give.isPending}
            title="Ctrl + Enter"
          >
            {answer.given ? "Change the points" : "Give the points"}
          </Button>
          <span className={classes.dim} role="status">
            {answer.given && !changed
              ? `Given ${moment(answer.given.at)}${answer.given.by ? ` by ${answer.given.by}` : ""}`
              : changed && (typed !== "" || half.note !== "")
                ? "Not given yet; kept in this browser"
                : ""}
          </span>
        </div>
      </div>
    </article>
  );
}
