import { Button, Checkbox, NumberInput, Textarea } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { Given } from "../../shared/Given";
import { Line, Prose } from "../../shared/Prose";
import { dropSpare, findSpare, holdSpare } from "../../shared/spare";
import { Trouble } from "../../shared/Trouble";
import { moment, points } from "../../shared/when";
import classes from "./Marking.module.css";
import { byHand, type Half, type HalfPart, halfOf, ofLines, partsToGive, totalOf, within } from "./marks";

type Props = {
  assignment: string;
  question: number;
  of: number;
  answer: Schemas["AnswerToMark"];
  heading: string;
  /** Who marks: others may sign in at this browser. */
  person: string;
  /** Notes that were given here before. */
  notes: string[];
  /** Points are kept, and given out with the rest. */
  keep: boolean;
  focused: boolean;
  onNext: () => void;
};

/** One student's answer, with the points and the note that it is given. */
export function Answer(props: Props) {
  const { assignment, question, of, answer, heading, person, notes, keep, focused, onNext } = props;
  const queryClient = useQueryClient();
  const key = `green-slate/${person}/marks/${assignment}/${question}/${answer.student}/${answer.hand_in}`;
  const stands = halfOf(answer);
  // What was begun and not given yet is still here.
  const [half, setHalf] = useState<Half>(() => findSpare<Half>(key) ?? stands);
  const first = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (focused) first.current?.querySelector("input")?.focus();
  }, [focused]);
  const change = (to: Partial<Half>) => {
    const now = { ...half, ...to };
    setHalf(now);
    holdSpare(key, now);
  };
  const changePart = (id: string, to: HalfPart) => {
    const { total: _, ...rest } = half;
    const now = { ...rest, parts: { ...half.parts, [id]: to } };
    setHalf(now);
    holdSpare(key, now);
  };
  const total = totalOf(answer, half, of);
  const give = useMutation({
    mutationFn: () =>
      ask(
        api.PUT("/api/marking/{id}/{question}/{student}", {
          params: { path: { id: assignment, question, student: answer.student } },
          body: {
            points: half.total === undefined ? null : (total ?? null),
            parts: partsToGive(answer, half),
            note: half.note,
            hand_in: answer.hand_in,
            keep,
          },
        }),
      ),
    onSuccess: async () => {
      dropSpare(key);
      await queryClient.invalidateQueries({ queryKey: ["marking"] });
      onNext();
    },
  });
  const ready = total !== undefined;
  const changed = JSON.stringify(half) !== JSON.stringify(stands);
  const onKey = (e: KeyboardEvent) => {
    if (e.key !== "Enter" || !(e.ctrlKey || e.metaKey) || !ready || give.isPending) return;
    e.preventDefault();
    give.mutate();
  };
  const hands = byHand(answer);
  const simple = hands.length === 1 && answer.parts.length === 1;
  const others = notes.filter((n) => n !== half.note);
  return (
    <article className={classes.answer} aria-label={`Answer of ${heading}`} onKeyDown={onKey}>
      <header>
        <h2>{heading}</h2>
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
            <Given label={simple ? undefined : `(${part.id})`} given={part.given} />
          ) : (
            <p className={classes.dim}>{!simple && `(${part.id}) `}Nothing was given here.</p>
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
      <div className={classes.give} ref={first}>
        {hands.map((part) => (
          <PartMark
            key={part.id}
            part={part}
            label={simple ? `Points of ${of}` : `Points for (${part.id}), of ${points(part.worth)}`}
            half={
              half.total !== undefined && simple
                ? { points: half.total, met: [] }
                : (half.parts[part.id] ?? { points: "", met: [] })
            }
            onChange={(to) => changePart(part.id, to)}
          />
        ))}
        {!simple && (
          <p className={classes.total}>
            {total === undefined
              ? `Of ${of} in all`
              : half.total === undefined
                ? `${points(total)} of ${of} in all`
                : `${points(total)} of ${of} in all, given as one`}
            {answer.earned > 0 && `; ${points(answer.earned)} from parts that are checked`}
          </p>
        )}
        <Textarea
          label="Note to the student"
          description="Maths goes between dollar signs: $\frac{1}{2} m v^2$"
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
            {keep ? "Hold back the points" : answer.given ? "Change the points" : "Give the points"}
          </Button>
          <span className={classes.dim} role="status">
            {said(answer, changed, half)}
          </span>
        </div>
        {answer.given && !changed && answer.given.note.includes("$") && (
          <div className={classes.shown}>
            <p className={classes.dim}>As the student reads it</p>
            <Prose blocks={answer.given.note_shown} />
          </div>
        )}
      </div>
    </article>
  );
}

function said(answer: Schemas["AnswerToMark"], changed: boolean, half: Half): string {
  const begun = half.note !== "" || Object.values(half.parts).some((p) => p.points !== "");
  if (changed) return begun ? "Not given yet; kept in this browser" : "";
  if (answer.kept) {
    return answer.kept.handed_in_since
      ? "Handed in again since these points were held back: look at it again."
      : "Held back: nobody sees it until it is released";
  }
  if (!answer.given) return "";
  return `Given ${moment(answer.given.at)}${answer.given.by ? ` by ${answer.given.by}` : ""}`;
}

type PartMarkProps = {
  part: Schemas["AnswerToMarkPart"];
  label: string;
  half: HalfPart;
  onChange: (to: HalfPart) => void;
};

/** Points for one part: its rubric's lines, and the number that comes of them or was typed. */
function PartMark({ part, label, half, onChange }: PartMarkProps) {
  const typed = String(half.points).trim();
  const wrong = typed !== "" && within(half.points, part.worth) === undefined;
  const tick = (line: number, on: boolean) => {
    const met = on ? [...half.met, line].sort((a, b) => a - b) : half.met.filter((l) => l !== line);
    onChange({ points: ofLines(part, met), met });
  };
  return (
    <div className={classes.partMark}>
      {part.rubric.length > 0 && (
        <fieldset className={classes.rubric}>
          <legend>{`What is looked for${label.includes("(") ? ` in (${part.id})` : ""}`}</legend>
          {part.rubric.map((line, i) => (
            <Checkbox
              // biome-ignore lint/suspicious/noArrayIndexKey: lines never change places
              key={i}
              checked={half.met.includes(i)}
              onChange={(e) => tick(i, e.currentTarget.checked)}
              label={
                <>
                  <Line content={line.say} /> <span className={classes.dim}>+{points(line.points)}</span>
                </>
              }
            />
          ))}
        </fieldset>
      )}
      <NumberInput
        className={classes.points}
        label={label}
        min={0}
        max={part.worth}
        step={0.5}
        decimalScale={2}
        clampBehavior="none"
        value={half.points}
        error={wrong ? `From 0 to ${points(part.worth)}` : undefined}
        onChange={(n) => onChange({ points: n, met: half.met })}
      />
    </div>
  );
}
