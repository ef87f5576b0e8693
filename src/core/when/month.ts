import { addDays, weekdayOf, type Wall } from "./zone";

const two = (n: number): string => String(n).padStart(2, "0");

/** A time as it can be typed and is read again: "2026-12-01 08:30". */
export const wallText = ({ year, month, day, hour, minute }: Wall): string =>
  `${year}-${two(month)}-${two(day)} ${two(hour)}:${two(minute)}`;

/** Whether both are on one day of the calendar. */
export const sameDay = (a: Wall, b: Wall): boolean => a.year === b.year && a.month === b.month && a.day === b.day;

/** The weeks a month lies in, each from Monday to Sunday, with the days of its neighbours; at the same time of day. */
export function weeksOf(of: Wall): readonly (readonly Wall[])[] {
  const first = { ...of, day: 1 };
  const weeks: Wall[][] = [];
  for (let day = addDays(first, -weekdayOf(first)); weeks.length === 0 || day.month === of.month; day = addDays(day, 7))
    weeks.push(Array.from({ length: 7 }, (_, i) => addDays(day, i)));
  return weeks;
}
