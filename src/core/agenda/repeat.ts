import { addDays, addMonths, instantOf, wallIn, weekdayOf, type Wall } from "../when";

/**
 * How often a task comes again, as it is kept: "1 day", "2 week", "1 workday", "3 month", "1 year". Where its day is one
 * that this month has not got, the day that is meant stands behind it: "1 month on 31".
 */
export const REPEAT = /^([1-9]\d?) (?:(day|workday|week)|(month|year)(?: on (29|30|31))?)$/;
export type Unit = "day" | "workday" | "week" | "month" | "year";

export const repeatOf = (every: number, unit: Unit): string => `${every} ${unit}`;

interface Repeat {
  readonly every: number;
  readonly unit: Unit;
  /** The day of the month that is meant, where the task is due on another. */
  readonly on: number | null;
}

export function readRepeat(text: string): Repeat | null {
  const found = REPEAT.exec(text);
  if (!found) return null;
  const [, every, unit = found[3], , on] = found;
  return { every: Number(every), unit: unit as Unit, on: on === undefined ? null : Number(on) };
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

const lastDay = ({ year, month }: Wall): number => new Date(Date.UTC(year, month, 0)).getUTCDate();

/** @param day of the month, where it counts by months */
function later(wall: Wall, unit: Unit, count: number, day: number): Wall {
  if (unit === "workday") return addWorkdays(wall, count);
  if (unit !== "month" && unit !== "year") return addDays(wall, unit === "week" ? count * 7 : count);
  const first = addMonths({ ...wall, day: 1 }, unit === "year" ? count * 12 : count);
  return { ...first, day: Math.min(day, lastDay(first)) };
}

/** When a task is due, and how often it comes again from then on. */
export interface Next {
  /** ISO 8601, UTC */
  readonly due: string;
  readonly repeat: string;
}

/**
 * When a task is due next, once it is done: at the same time of day by the clock on the wall, as often on from when it
 * was due as it takes to come after both that and now. What is due on the 31st is so in each month that has one, and on
 * the last day of the others.
 * @param due ISO 8601 @param repeat as readRepeat reads it @throws RangeError where it is no repeat
 */
export function nextTime(due: string, repeat: string, now: Date, zone: string): Next {
  const read = readRepeat(repeat);
  if (!read) throw new RangeError(`"${repeat}" says not how often`);
  const { every, unit } = read;
  const was = new Date(due);
  // Years of days are not gone through one by one.
  const span = (now.getTime() - was.getTime()) / (every * SHORTEST[unit] * DAY_MS);
  const isFar = unit === "workday" && span > 30;
  const wall = wallIn(zone, was);
  // Put elsewhere by hand meanwhile, it is meant to be there.
  const day = read.on !== null && wall.day === Math.min(read.on, lastDay(wall)) ? read.on : wall.day;
  const start = isFar
    ? { ...wallIn(zone, new Date(now.getTime() - 7 * DAY_MS)), hour: wall.hour, minute: wall.minute }
    : wall;
  // Months are longer than the shortest: so many of them cannot be too many by more than a tenth.
  let times = isFar ? 1 : Math.max(1, Math.floor(span * (unit === "workday" ? 0 : 0.9)) - 2);
  for (; ; times++) {
    const at = later(start, unit, times * every, day);
    const next = instantOf(zone, at);
    if (next <= now || next <= was) continue;
    const isMeant = (unit !== "month" && unit !== "year") || at.day === day;
    return { due: next.toISOString(), repeat: repeatOf(every, unit) + (isMeant ? "" : ` on ${day}`) };
  }
}
