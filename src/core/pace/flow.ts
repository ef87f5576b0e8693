import type { Day } from "./backlog";

/** What came or was decided in an hour of a day, by the person's clock. */
export interface HourCount {
  readonly day: Day;
  /** 0 to 23 */
  readonly hour: number;
  readonly count: number;
}

const WEEK = 7;
const HOURS = 24;

/** 0 for a Monday: 1970-01-01 was a Thursday. */
export const weekdayOf = (day: Day): number => (((day + 3) % WEEK) + WEEK) % WEEK;
/** The Monday of its week. */
export const mondayOf = (day: Day): Day => day - weekdayOf(day);

/** Counts of each day of a span; days outside it are left out. @returns one number a day, `from` first */
export function byDay(counts: Iterable<HourCount>, from: Day, to: Day): number[] {
  const out = new Array<number>(Math.max(0, to - from + 1)).fill(0);
  for (const { day, count } of counts) if (day >= from && day <= to) out[day - from]! += count;
  return out;
}

export interface WeekCount {
  /** Its Monday. */
  readonly week: Day;
  readonly count: number;
  /** How many of its days are in the span: less than seven at its ends. */
  readonly days: number;
}

/** The same by weeks from Monday to Sunday. */
export function byWeek(counts: Iterable<HourCount>, from: Day, to: Day): WeekCount[] {
  const out: { week: Day; count: number; days: number }[] = [];
  byDay(counts, from, to).forEach((count, i) => {
    const week = mondayOf(from + i);
    const last = out.at(-1);
    if (last?.week === week) {
      last.count += count;
      last.days++;
    } else out.push({ week, count, days: 1 });
  });
  return out;
}

/**
 * A usual week: the mean of each hour of each weekday over a span. Weekdays that are in it more often count no more
 * for that; one that is not in it at all has zeros.
 * @returns 7 rows from Monday, 24 hours each
 */
export function usualWeek(counts: Iterable<HourCount>, from: Day, to: Day): number[][] {
  const times = new Array<number>(WEEK).fill(0);
  for (let day = from; day <= to; day++) times[weekdayOf(day)]!++;
  const sums = times.map(() => new Array<number>(HOURS).fill(0));
  for (const { day, hour, count } of counts) if (day >= from && day <= to) sums[weekdayOf(day)]![hour]! += count;
  return sums.map((hours, weekday) => hours.map((sum) => (times[weekday] === 0 ? 0 : sum / times[weekday]!)));
}
