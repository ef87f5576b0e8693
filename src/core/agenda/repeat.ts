import { addDays, addMonths, instantOf, wallIn, weekdayOf, type Wall } from "../when";

/** How often a task comes again, as it is kept: "1 day", "2 week", "1 workday", "3 month", "1 year". */
export const REPEAT = /^([1-9]\d?) (day|workday|week|month|year)$/;
export type Unit = "day" | "workday" | "week" | "month" | "year";

export const repeatOf = (every: number, unit: Unit): string => `${every} ${unit}`;

export function readRepeat(text: string): { readonly every: number; readonly unit: Unit } | null {
  const found = REPEAT.exec(text);
  return found ? { every: Number(found[1]), unit: found[2] as Unit } : null;
}

/** "every workday", "every 2 weeks" */
export function repeatText(text: string): string {
  const read = readRepeat(text);
  if (!read) return text;
  return read.every === 1 ? `every ${read.unit}` : `every ${read.every} ${read.unit}s`;
}

const DAY_MS = 86_400_000;
/** Days between two times, at the least. */
const SHORTEST: Record<Unit, number> = { day: 1, workday: 1, week: 7, month: 28, year: 365 };
const SATURDAY = 5;

/** So many workdays on, Monday to Friday. */
function addWorkdays(wall: Wall, count: number): Wall {
  let at = wall;
  for (let left = count; left > 0;) {
    at = addDays(at, 1);
    if (weekdayOf(at) < SATURDAY) left--;
  }
  return at;
}

function later(wall: Wall, unit: Unit, count: number): Wall {
  if (unit === "workday") return addWorkdays(wall, count);
  if (unit === "month" || unit === "year") return addMonths(wall, unit === "year" ? count * 12 : count);
  return addDays(wall, unit === "week" ? count * 7 : count);
}

/**
 * When a task is due next, once it is done: at the same time of day by the clock on the wall, as often on from when it
 * was due as it takes to come after both that and now.
 * @param repeat as readRepeat reads it @param due ISO 8601 @returns ISO 8601 in UTC @throws RangeError where it is no repeat
 */
export function nextDue(due: string, repeat: string, now: Date, zone: string): string {
  const read = readRepeat(repeat);
  if (!read) throw new RangeError(`"${repeat}" says not how often`);
  const { every, unit } = read;
  const was = new Date(due);
  // Years of days are not gone through one by one.
  const span = (now.getTime() - was.getTime()) / (every * SHORTEST[unit] * DAY_MS);
  const isFar = unit === "workday" && span > 30;
  const wall = wallIn(zone, was);
  const start = isFar
    ? { ...wallIn(zone, new Date(now.getTime() - 7 * DAY_MS)), hour: wall.hour, minute: wall.minute }
    : wall;
  // Months are longer than the shortest: so many of them cannot be too many by more than a tenth.
  let times = isFar ? 1 : Math.max(1, Math.floor(span * (unit === "workday" ? 0 : 0.9)) - 2);
  for (; ; times++) {
    const next = instantOf(zone, later(start, unit, times * every));
    if (next > now && next > was) return next.toISOString();
  }
}
