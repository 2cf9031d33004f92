/** Whether somebody writes there: a field, an editor of texts or programs, a maths field. */
export function isEditable(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return (
    target.isContentEditable || target.closest("input, textarea, select, math-field, [role=textbox]") !== null
  );
}

const PLACE = "green-slate/single-keys";

/** Keys without a modifier can be switched off (WCAG 2.1.4). */
export function singleKeysOn(): boolean {
  return window.localStorage.getItem(PLACE) !== "off";
}

export function setSingleKeys(on: boolean) {
  if (on) window.localStorage.removeItem(PLACE);
  else window.localStorage.setItem(PLACE, "off");
}
