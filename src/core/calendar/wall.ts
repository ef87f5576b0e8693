import { instantOf, wallIn } from "../when";

/**
 * Times as clocks on walls show them, as numbers: milliseconds since 1970 as if the wall stood in Greenwich.
 * Recurrences are reckoned in them, and become instants only at the end: that is what makes them right across
 * changes of the clock.
 */

export const DAY_MS = 86_400_000;
const MINUTE_MS = 60_000;

/** "2026-11-27T10:00", "2026-11-27T10:00:30", "2026-11-27" @throws RangeError for what is no such time */
export function readWall(text: string): number {
  const ms = Date.parse(`${text}${text.length === 10 ? "T00:00" : ""}Z`);
  if (Number.isNaN(ms)) throw new RangeError(`"${text}" is no time`);
  return ms;
}

/** Whether a time is said by the day only. */
export const isDay = (text: string): boolean => text.length === 10;

/** As readWall reads it; seconds only where there are any. @param whole by the day only */
export function wallOf(ms: number, whole = false): string {
  const iso = new Date(ms).toISOString();
  if (whole) return iso.slice(0, 10);
  return iso.slice(0, iso.slice(17, 19) === "00" ? 16 : 19);
}

/** Clocks are only changed at quarters of an hour: within one of them they are off by the same. */
const QUARTER_MS = 15 * MINUTE_MS;
const MOST_KEPT = 20_000;
const offsets = new Map<string, Map<number, number>>();

/** By how much clocks of a zone are ahead of Greenwich at the beginning of a quarter, ms. */
function offsetOf(zone: string, quarter: number): number {
  let kept = offsets.get(zone);
  if (!kept || kept.size > MOST_KEPT) offsets.set(zone, (kept = new Map()));
  let offset = kept.get(quarter);
  if (offset === undefined) {
    const { year, month, day, hour, minute } = wallIn(zone, new Date(quarter * QUARTER_MS));
    offset = Date.UTC(year, month - 1, day, hour, minute) - quarter * QUARTER_MS;
    kept.set(quarter, offset);
  }
  return offset;
}

const QUARTERS_A_DAY = DAY_MS / QUARTER_MS;

/** The same at any time. The platform is slow to say it, and is asked by the day: no clock is changed and changed back in one. */
function offsetAt(zone: string, at: number): number {
  const dawn = Math.floor(at / DAY_MS) * QUARTERS_A_DAY;
  const offset = offsetOf(zone, dawn);
  if (offset === offsetOf(zone, dawn + QUARTERS_A_DAY)) return offset;
  return offsetOf(zone, Math.floor(at / QUARTER_MS));
}

/** What clocks of a zone show at an instant (ms). */
export const wallAt = (zone: string, at: number): number => at + offsetAt(zone, at);

/**
 * The instant (ms) at which clocks of a zone show a time: one that they skip is as far after the jump, one that they
 * show twice is the first of the two.
 */
export function instantAt(zone: string, wall: number): number {
  const before = wall - offsetAt(zone, wall - DAY_MS);
  const after = wall - offsetAt(zone, wall + DAY_MS);
  if (before === after) return before;
  const at = new Date(wall);
  const minute = {
    year: at.getUTCFullYear(),
    month: at.getUTCMonth() + 1,
    day: at.getUTCDate(),
    hour: at.getUTCHours(),
    minute: at.getUTCMinutes(),
  };
  return instantOf(zone, minute).getTime() + (wall % MINUTE_MS);
}

/** Whether the platform knows a zone. */
export function isZone(zone: string): boolean {
  if (zone === "") return false;
  try {
    wallIn(zone, new Date(0));
    return true;
  } catch {
    return false;
  }
}
