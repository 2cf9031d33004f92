const day = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  timeZone: "UTC",
});

/** "1 Sept 2026", for a day without a time. */
export const dayWords = (iso: string) => day.format(new Date(`${iso}T00:00:00Z`));

/** Every time zone that this browser knows, with the one that is set. */
export const timeZones = (set: string): string[] => [
  ...new Set([set, "Etc/UTC", ...Intl.supportedValuesOf("timeZone")]),
];

export const ownZone = () => Intl.DateTimeFormat().resolvedOptions().timeZone || "Etc/UTC";

/** Several, in the words of a list: "Ada, Bo and Cy". */
export const several = (names: string[]) => new Intl.ListFormat("en-GB").format(names);
