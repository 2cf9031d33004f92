const dayAndTime = new Intl.DateTimeFormat("en-GB", {
  weekday: "long",
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});
const timeOnly = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });

/** "Sunday 29 Nov, 23:59" */
export function moment(instant: string): string {
  const parts = Object.fromEntries(dayAndTime.formatToParts(new Date(instant)).map((p) => [p.type, p.value]));
  return `${parts.weekday} ${parts.day} ${parts.month}, ${parts.hour}:${parts.minute}`;
}

export function clock(instant: string | Date): string {
  return timeOnly.format(new Date(instant));
}

/** Whole days from one calendar day to another, as the reader's clock has them. */
export function daysBetween(from: string, to: string): number {
  const midnight = (instant: string) => new Date(instant).setHours(12, 0, 0, 0);
  return Math.round((midnight(to) - midnight(from)) / 86_400_000);
}

/** "in 4 days", "tomorrow", "2 days ago" */
export function away(now: string, instant: string): string {
  const days = daysBetween(now, instant);
  if (days === 0) return new Date(instant) < new Date(now) ? "earlier today" : "today";
  if (days === 1) return "tomorrow";
  if (days === -1) return "yesterday";
  return days > 0 ? `in ${days} days` : `${-days} days ago`;
}

export function percent(value: number): string {
  return `${Math.round(value)} %`;
}

export function points(value: number): string {
  return String(Math.round(value * 100) / 100);
}

/** "25 minutes", "1 hour 5 minutes" */
export function length(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  const many = (n: number, what: string) => `${n} ${what}${n === 1 ? "" : "s"}`;
  const hours = Math.floor(minutes / 60);
  if (hours === 0) return many(minutes, "minute");
  return minutes % 60 === 0 ? many(hours, "hour") : `${many(hours, "hour")} ${many(minutes % 60, "minute")}`;
}

const short = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });

/** "25 Nov", where there is room for no more. */
export const dayMonth = (at: string | number) => short.format(new Date(at));
