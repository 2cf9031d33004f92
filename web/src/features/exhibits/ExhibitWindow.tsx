import {
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useDraggable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { type ReactNode, useEffect, useRef } from "react";
import { createPortal } from "react-dom";
import classes from "./Exhibits.module.css";
import { inside, type Place } from "./places";

type Props = {
  title: string;
  /** Which of the open windows it is, from 0: the next one does not lie on it. */
  number: number;
  place: Place | undefined;
  onPut: (to: Partial<Place>) => void;
  children: ReactNode;
};

const size = { width: 420, height: 380 };

/** A window that stays where it was put. */
export function ExhibitWindow(props: Props) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 3 } }),
    useSensor(KeyboardSensor),
  );
  const { width = size.width, x, y } = props.place ?? {};
  const start = inside(
    x ?? window.innerWidth - width - 40 - props.number * 60,
    y ?? 90 + props.number * 70,
    width,
  );
  return createPortal(
    <DndContext
      sensors={sensors}
      accessibility={{
        screenReaderInstructions: {
          draggable: "Press the space bar, move the window with the arrow keys, and press space again.",
        },
      }}
      onDragEnd={({ delta }) => props.onPut(inside(start.x + delta.x, start.y + delta.y, width))}
    >
      <Frame {...props} start={start} />
    </DndContext>,
    document.body,
  );
}

function Frame({ title, place, start, onPut, children }: Props & { start: { x: number; y: number } }) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform } = useDraggable({ id: title });
  const frame = useRef<HTMLDivElement | null>(null);
  const put = useRef(onPut);
  put.current = onPut;
  useEffect(() => {
    const box = frame.current;
    if (!box) return;
    let timer = 0;
    const watch = new ResizeObserver(() => {
      window.clearTimeout(timer);
      timer = window.setTimeout(() => {
        const { offsetWidth: width, offsetHeight: height } = box;
        if (width > 0) put.current({ width, height });
      }, 250);
    });
    watch.observe(box);
    return () => {
      window.clearTimeout(timer);
      watch.disconnect();
    };
  }, []);
  return (
    <div
      ref={(node) => {
        frame.current = node;
        setNodeRef(node);
      }}
      className={classes.window}
      style={{
        left: start.x,
        top: start.y,
        width: place?.width ?? size.width,
        height: place?.height ?? size.height,
        transform: transform ? `translate(${transform.x}px, ${transform.y}px)` : undefined,
      }}
      data-testid="window"
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        className={classes.handle}
        {...attributes}
        {...listeners}
        aria-label={`Move ${title}`}
      >
        <svg viewBox="0 0 24 6" width="24" height="6" aria-hidden="true">
          <path d="M1 1h22M1 5h22" stroke="currentColor" strokeWidth="1.5" />
        </svg>
      </button>
      {children}
    </div>
  );
}
