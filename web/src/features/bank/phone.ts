import { useSyncExternalStore } from "react";

/** Where the text that is being edited waits for the page of a phone; the frame shares it with the window around it. */
const KEY = "slate-bank-phone";

export const holdForPhone = (text: string) => sessionStorage.setItem(KEY, text);

/** The text that is being edited in the window around this one. */
export function useHeldForPhone(): string {
  return useSyncExternalStore(
    (tell) => {
      window.addEventListener("storage", tell);
      return () => window.removeEventListener("storage", tell);
    },
    () => sessionStorage.getItem(KEY) ?? "",
  );
}
