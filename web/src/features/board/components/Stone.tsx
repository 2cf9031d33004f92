import type { Schemas } from "../../../api/client";

type Props = { stone: Schemas["Stone"] };

const shape = "M5 4 L25 3 L28 24 L3 26 Z";

/** One question's state as a shape: each state has its own, whatever its colour. */
export function Stone({ stone }: Props) {
  const filled = stone === "right";
  return (
    <svg viewBox="0 0 31 30" width="30" height="29" aria-hidden="true">
      <path
        d={stone === "no_tries_left" ? "M5 4 L12 3.6 L15 9 L18 3.3 L25 3 L28 24 L3 26 Z" : shape}
        fill={filled ? "currentColor" : "none"}
        stroke="currentColor"
        strokeWidth="2"
        strokeLinejoin="round"
      />
      {stone === "locked" && (
        <path d="M10 15 h12" stroke="currentColor" strokeWidth="2" strokeDasharray="2 3" />
      )}
      {stone === "partly" && <path d="M4 15 L27 14 L28 24 L3 26 Z" fill="currentColor" />}
      {stone === "typed" && <circle cx="23" cy="8" r="3.4" fill="currentColor" />}
      {stone === "for_the_teacher" && (
        <path d="M9 12 h13 M9 17 h8" stroke="currentColor" strokeWidth="2.4" strokeLinecap="round" />
      )}
      {stone === "not_yet" && <path d="M9 20 L21 10" stroke="currentColor" strokeWidth="2.4" />}
      {stone === "no_tries_left" && <path d="M8 18 L23 17" stroke="currentColor" strokeWidth="3" />}
      {filled && (
        <path d="M10 15 l4 4 l8 -10" fill="none" stroke="var(--stone-mark, var(--card))" strokeWidth="2.6" />
      )}
    </svg>
  );
}
