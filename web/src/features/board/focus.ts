/** Types into the answer field that was used last: for tools that hand a result over. */
let typeInto: ((text: string) => void) | null = null;

export function fieldInUse(type: (text: string) => void) {
  typeInto = type;
}

/** Gives false if no field was used yet. */
export function typeIntoField(text: string): boolean {
  typeInto?.(text);
  return typeInto !== null;
}
