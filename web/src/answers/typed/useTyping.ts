import { useRef } from "react";

/** Types into a field where its cursor is: keys, and results that tools hand over. */
export function useTyping(onChange: (text: string) => void) {
  const input = useRef<HTMLInputElement | null>(null);
  const type = (text: string, back = 0) => {
    const field = input.current;
    if (!field) return;
    const now = field.value;
    const start = field.selectionStart ?? now.length;
    const end = field.selectionEnd ?? now.length;
    onChange(now.slice(0, start) + text + now.slice(end));
    const cursor = start + text.length - back;
    requestAnimationFrame(() => {
      field.focus();
      field.setSelectionRange(cursor, cursor);
    });
  };
  /** A result beside something else keeps its value: it goes into brackets there. */
  const typeResult = (text: string) => {
    const field = input.current;
    if (!field || field.disabled) return false;
    const before = field.value.slice(0, field.selectionStart ?? field.value.length);
    const after = field.value.slice(field.selectionEnd ?? field.value.length);
    type((before + after).trim() === "" ? text : `(${text})`);
    return true;
  };
  return { input, type, typeResult };
}
