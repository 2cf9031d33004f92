/** Types into the answer field that was used last, for tools that hand a result over; false if it is gone. */
let typeInto: ((text: string) => boolean) | null = null;

export function fieldInUse(type: (text: string) => boolean) {
  typeInto = type;
}

/** Gives false if there is no field to type into. */
export function typeIntoField(text: string): boolean {
  return typeInto?.(text) ?? false;
}
