import { dayText } from "../parts/words";

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** How long, to two figures at most: "40 min", "3.5 h", "12 d". */
export function lengthText(ms: number | null): string {
  if (ms === null) return "–";
  if (ms < MINUTE) return "under 1 min";
  const [unit, name] = ms < HOUR ? [MINUTE, "min"] : ms < 2 * DAY ? [HOUR, "h"] : [DAY, "d"];
  const value = ms / unit;
  return `${value < 9.95 ? Number(value.toFixed(1)) : Math.round(value)} ${name}`;
}

/** Seconds that were saved. */
export const savedText = (seconds: number): string =>
  seconds < 60 ? `${Math.round(seconds)} s` : lengthText(seconds * 1000);

const at = (day: string) => Date.parse(`${day.slice(0, 10)}T00:00:00Z`);
/** "23 Nov" */
export const shortDay = (day: string): string => dayText(at(day), "UTC");

const WEEKDAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
/** The same with its year, where that is not the one of the other. */
export const dayBeside = (day: string, other: string): string =>
  day.slice(0, 4) === other.slice(0, 4) ? shortDay(day) : `${shortDay(day)} ${day.slice(0, 4)}`;

/** A step of time as a figure names it: "Mon 23 Nov", "week of 23 Nov", "09:00". */
export function stepText(step: string, by: "hour" | "day" | "week"): string {
  if (by === "week") return `week of ${shortDay(step)}`;
  const day = `${WEEKDAYS[new Date(at(step)).getUTCDay()]} ${shortDay(step)}`;
  return by === "day" ? day : `${day}, ${step.slice(11)}:00`;
}

/** A range of days in words. */
export function daysText(days: number | null): string {
  if (days === null) return "never";
  return days < 14 ? `${days} d` : days < 100 ? `${Math.round(days / 7)} weeks` : `${Math.round(days / 30)} months`;
}
