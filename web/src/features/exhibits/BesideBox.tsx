import type { ReactNode } from "react";
import { createPortal } from "react-dom";

/** Puts a document into the room beside the question. */
export function BesideBox({ room, children }: { room: HTMLElement | null; children: ReactNode }) {
  return room ? createPortal(children, room) : null;
}
