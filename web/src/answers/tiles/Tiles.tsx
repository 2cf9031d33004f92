import {
  DndContext,
  type DragEndEvent,
  MouseSensor,
  TouchSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import type { ComponentProps, ReactNode } from "react";
import classes from "./Tiles.module.css";

type AreaProps = { children: ReactNode; onDrop: (tile: string, place: string) => void };

/** Where tiles can be dragged. Everything can be done by pressing as well: a tile first, then its place. */
export function DragArea({ children, onDrop }: AreaProps) {
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: 6 } }),
    useSensor(TouchSensor, { activationConstraint: { delay: 180, tolerance: 8 } }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (over) onDrop(String(active.id), String(over.id));
  };
  return (
    <DndContext sensors={sensors} onDragEnd={dropped} accessibility={{ screenReaderInstructions: quiet }}>
      {children}
    </DndContext>
  );
}

/** Dragging is for pointers only: there is nothing to say about it. */
const quiet = { draggable: "" };

type TileProps = Omit<ComponentProps<"button">, "id"> & { id: string; picked: boolean };

/** Something that is put somewhere: pressed to pick it up, or dragged. */
export function Tile({ id, picked, disabled, children, ...props }: TileProps) {
  const { listeners, setNodeRef, transform, isDragging } = useDraggable({ id, disabled: disabled ?? false });
  const moved = transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined;
  return (
    <button
      type="button"
      ref={setNodeRef}
      className={classes.tile}
      style={moved}
      data-held={isDragging}
      data-tile={id}
      disabled={disabled}
      aria-pressed={picked}
      {...listeners}
      {...props}
    >
      {children}
    </button>
  );
}

type SpotProps = ComponentProps<"div"> & { place: string; off?: boolean };

/** Where a tile can be dropped. */
export function Spot({ place, off = false, children, ...props }: SpotProps) {
  const { setNodeRef, isOver } = useDroppable({ id: place, disabled: off });
  return (
    <div ref={setNodeRef} data-over={isOver} {...props}>
      {children}
    </div>
  );
}
