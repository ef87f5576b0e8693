/** Wall-clock times in a time zone, by the zone tables that come with the platform (IANA names). */

export interface Wall {
  readonly year: number;
  /** 1 to 12 */
  readonly month: number;
  readonly day: number;
  readonly hour: number;
  readonly minute: number;
}

const formats = new Map<string, Intl.DateTimeFormat>();

function formatIn(zone: string): Intl.DateTimeFormat {
  let format = formats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat("en-US", {
      timeZone: zone,
      hourCycle: "h23",
      year: "numeric",
      month: "numeric",
      day: "numeric",
      hour: "numeric",
      minute: "numeric",
      second: "numeric",
    });
    formats.set(zone, format);
  }
  return format;
}

/** What a clock on the wall shows at that instant. @throws RangeError for an unknown zone. */
export function wallIn(zone: string, at: Date): Wall {
  const parts: Record<string, number> = {};
  for (const { type, value } of formatIn(zone).formatToParts(at)) parts[type] = Number(value);
  const { year = 0, month = 0, day = 0, hour = 0, minute = 0 } = parts;
  return { year, month, day, hour, minute };
}

const asUtc = (w: Wall): number => Date.UTC(w.year, w.month - 1, w.day, w.hour, w.minute);

/**
 * The instant at which a clock in that zone shows the time. A time that clocks skip in spring is read as
 * the same distance after the jump; one they show twice in autumn is the first of the two.
 */
export function instantOf(zone: string, wall: Wall): Date {
  const wanted = asUtc(wall);
  const offsetAt = (ms: number) => asUtc(wallIn(zone, new Date(ms))) - Math.floor(ms / 60_000) * 60_000;
  // A day either side brackets any change of offset.
  const before = wanted - offsetAt(wanted - 86_400_000);
  const after = wanted - offsetAt(wanted + 86_400_000);
  for (const guess of [Math.min(before, after), Math.max(before, after)])
    if (asUtc(wallIn(zone, new Date(guess))) === wanted) return new Date(guess);
  return new Date(before);
}

/** The calendar day so many days on; days past the end of a month run over. */
export function addDays(wall: Wall, days: number): Wall {
  const moved = new Date(Date.UTC(wall.year, wall.month - 1, wall.day + days));
  return { ...wall, year: moved.getUTCFullYear(), month: moved.getUTCMonth() + 1, day: moved.getUTCDate() };
}

/** The same day so many months on, or the last day of that month where it is shorter. */
export function addMonths(wall: Wall, months: number): Wall {
  const index = wall.year * 12 + wall.month - 1 + months;
  const year = Math.floor(index / 12);
  const month = (index % 12) + 1;
  const last = new Date(Date.UTC(year, month, 0)).getUTCDate();
  return { ...wall, year, month, day: Math.min(wall.day, last) };
}

/** 0 is Monday. */
export const weekdayOf = (wall: Wall): number =>
  (new Date(Date.UTC(wall.year, wall.month - 1, wall.day)).getUTCDay() + 6) % 7;
