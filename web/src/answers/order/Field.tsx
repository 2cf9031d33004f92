import {
  closestCenter,
  DndContext,
  type DragEndEvent,
  MouseSensor,
  TouchSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { SortableContext, useSortable, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { useRef, useState } from "react";
import { Line } from "../../shared/Prose";
import type { FieldProps, Label } from "../kinds";
import { Told } from "../Told";
import classes from "./Field.module.css";

/** Steps that are brought into order: dragged, or moved up and down by buttons. */
export default function Field(props: FieldProps<"order">) {
  const { part, name = part, entry, value, disabled, onChange } = props;
  const given = value && typeof value === "object" && "order" in value ? value.order : [];
  const order = given.length > 0 ? given : entry.steps.map((s) => s.id);
  const [said, setSaid] = useState("");
  const list = useRef<HTMLOListElement>(null);
  const move = (from: number, to: number) => {
    const id = order[from];
    if (id === undefined || from === to || to < 0 || to >= order.length) return;
    const rest = order.filter((o) => o !== id);
    onChange({ order: [...rest.slice(0, to), id, ...rest.slice(to)] });
    setSaid(`Now step ${to + 1} of ${order.length}.`);
  };
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 4 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 120, tolerance: 8 } }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over) move(order.indexOf(String(active.id)), order.indexOf(String(over.id)));
  };
  /** The button that was pressed keeps the focus where its step has gone; at an end the other one takes it. */
  const press = (from: number, to: number, which: "up" | "down") => {
    const id = order[from];
    move(from, to);
    requestAnimationFrame(() => {
      const row = list.current?.querySelector(`[data-step="${id}"]`);
      const same = row?.querySelector<HTMLButtonElement>(`[data-move="${which}"]:enabled`);
      (same ?? row?.querySelector<HTMLButtonElement>("[data-move]:enabled"))?.focus();
    });
  };
  return (
    // biome-ignore lint/a11y/useSemanticElements: a list of steps is no set of form fields with a legend
    <div role="group" aria-label="Steps to put in order" data-part={name}>
      <p className={classes.end}>{entry.top}</p>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={dropped}
        accessibility={{ screenReaderInstructions: { draggable: "" } }}
      >
        <SortableContext items={order} strategy={verticalListSortingStrategy} disabled={disabled}>
          <ol className={classes.list} ref={list}>
            {order.map((id, n) => {
              const step = entry.steps.find((s) => s.id === id);
              if (!step) return null;
              return (
                <Step
                  key={id}
                  step={step}
                  number={n + 1}
                  of={order.length}
                  disabled={disabled}
                  told={props.members.find((m) => m.id === id)?.right}
                  onUp={() => press(n, n - 1, "up")}
                  onDown={() => press(n, n + 1, "down")}
                />
              );
            })}
          </ol>
        </SortableContext>
      </DndContext>
      <p className={classes.end}>{entry.bottom}</p>
      <p className="only-spoken" aria-live="polite">
        {said}
      </p>
    </div>
  );
}

type StepProps = {
  step: Label;
  number: number;
  of: number;
  disabled: boolean;
  told: boolean | undefined;
  onUp: () => void;
  onDown: () => void;
};

function Step({ step, number, of, disabled, told, onUp, onDown }: StepProps) {
  const { listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id: step.id });
  const style = {
    transform: transform ? `translate(0, ${transform.y}px)` : undefined,
    transition,
  };
  const arrow = (up: boolean) => (
    <button
      type="button"
      className={classes.move}
      data-move={up ? "up" : "down"}
      disabled={up ? number === 1 : number === of}
      aria-label={`Step ${number}: ${up ? "up" : "down"}`}
      onClick={up ? onUp : onDown}
    >
      <svg viewBox="0 0 20 20" width="18" height="18" aria-hidden="true">
        <path d={up ? "M4 13l6-7 6 7" : "M4 7l6 7 6-7"} fill="none" stroke="currentColor" strokeWidth="2.2" />
      </svg>
    </button>
  );
  return (
    <li ref={setNodeRef} style={style} className={classes.step} data-step={step.id} data-held={isDragging}>
      {!disabled && (
        <svg
          viewBox="0 0 14 22"
          className={classes.grip}
          aria-hidden="true"
          data-grip={step.id}
          {...listeners}
        >
          <path d="M2 5h10M2 11h10M2 17h10" stroke="currentColor" strokeWidth="2" />
        </svg>
      )}
      <span className={classes.text}>
        <Line content={step.text} />
      </span>
      {told !== undefined && <Told right={told} words={told ? "in order" : "out of order"} />}
      {!disabled && (
        <>
          {arrow(true)}
          {arrow(false)}
        </>
      )}
    </li>
  );
}
