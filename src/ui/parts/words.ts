export { plural } from "@/core/text";

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** How old, in figures: "5m", "3h", "12d", "8w", "2y". */
export function ageText(ms: number): string {
  if (ms < HOUR) return `${Math.max(0, Math.floor(ms / MINUTE))}m`;
  if (ms < DAY) return `${Math.floor(ms / HOUR)}h`;
  if (ms < 60 * DAY) return `${Math.floor(ms / DAY)}d`;
  if (ms < 365 * DAY) return `${Math.floor(ms / (7 * DAY))}w`;
  return `${Math.floor(ms / (365 * DAY))}y`;
}

export function sizeText(bytes: number): string {
  if (bytes < 1024) return `${bytes} B`;
  if (bytes < 1024 * 1024) return `${Math.round(bytes / 1024)} kB`;
  return `${(bytes / 1024 / 1024).toFixed(1)} MB`;
}

/** Formats are dear to make and cheap to use: a list that made one for each row spent most of its time on that. */
const formats = new Map<string, Intl.DateTimeFormat>();

function formatted(iso: string | number, zone: string | undefined, options: Intl.DateTimeFormatOptions): string {
  const key = `${zone} ${Object.entries(options).join()}`;
  let format = formats.get(key);
  if (!format) formats.set(key, (format = new Intl.DateTimeFormat("en-GB", { ...options, timeZone: zone })));
  return format.format(new Date(iso));
}

/** A date that is understood anywhere, and at any time later. */
export const longDateText = (iso: string, zone: string): string =>
  formatted(iso, zone, {
    weekday: "short",
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });

/** "Mon 23 Nov, 08:41", with the year where it is not this one. */
export function dateText(iso: string, zone: string, now: Date): string {
  const thisYear = new Date(iso).getFullYear() === now.getFullYear();
  const year = thisYear ? {} : ({ year: "numeric" } as const);
  return formatted(iso, zone, {
    weekday: "short",
    day: "numeric",
    month: "short",
    ...year,
    hour: "2-digit",
    minute: "2-digit",
  });
}

/** "23 Nov" */
export const dayText = (ms: number, zone: string | undefined): string =>
  formatted(ms, zone, { day: "numeric", month: "short" });

/** "08:41" today, "Mon 08:41" within a week, else "23 Nov". */
export function shortTimeText(ms: number, zone: string, nowMs: number): string {
  const near = Math.abs(ms - nowMs);
  if (near > 6.5 * DAY) return dayText(ms, zone);
  const time = { hour: "2-digit", minute: "2-digit" } as const;
  const isToday = dayText(ms, zone) === dayText(nowMs, zone);
  return formatted(ms, zone, isToday ? time : { weekday: "short", ...time });
}

/** "Mon 30 Nov 09:45" */
export const weekdayTimeText = (time: string, zone: string): string => {
  const parts = { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" } as const;
  return formatted(time, zone, parts).replaceAll(",", "");
};

/** "November 2026", of "2026-11". */
export const monthText = (month: string): string =>
  formatted(`${month}-15T12:00:00Z`, "UTC", { month: "long", year: "numeric" });

/** "Nov 26", of "2026-11" */
export const shortMonthText = (month: string): string =>
  formatted(`${month}-15T12:00:00Z`, "UTC", { month: "short", year: "2-digit" });

/** "Monday, 23 November 2026" */
export const longDayText = (iso: string, zone: string): string =>
  formatted(iso, zone, { weekday: "long", day: "numeric", month: "long", year: "numeric" });

/** "08:41" */
export const clockText = (iso: string, zone: string): string =>
  formatted(iso, zone, { hour: "2-digit", minute: "2-digit" });

const counts = new Intl.NumberFormat("en");

/** "12,000" */
export const countText = (n: number | undefined): string => (n === undefined ? "" : counts.format(n));
