import { addDays, instantOf, wallIn, weekdayOf } from "./zone";

/** Hours of the week: in which mail is let in, or somebody works. Half an hour is the smallest part of it. */
export const PART_MINUTES = 30;
export const PARTS_A_DAY = (24 * 60) / PART_MINUTES;
export const DAYS = 7;

/** A stretch of one day: from 0 for Monday, minutes of its day; `to` is the first minute that is out of it. */
export interface Stretch {
  readonly day: number;
  readonly from: number;
  readonly to: number;
}
export type Week = readonly Stretch[];

/** When most people work, where nobody has said otherwise. */
export const USUAL_WORK_HOURS: Week = [0, 1, 2, 3, 4].map((day) => ({ day, from: 9 * 60, to: 17 * 60 }));

/** Whether the week is open in each part of it, Monday's midnight first. */
export type Parts = readonly boolean[];

export function partsOf(week: Week): Parts {
  const parts = new Array<boolean>(DAYS * PARTS_A_DAY).fill(false);
  for (const { day, from, to } of week)
    parts.fill(true, day * PARTS_A_DAY + from / PART_MINUTES, day * PARTS_A_DAY + to / PART_MINUTES);
  return parts;
}

/** The stretches of a week in their order, those that touch as one; none reaches over midnight. */
export function weekOf(parts: Parts): Week {
  const week: Stretch[] = [];
  for (let day = 0; day < DAYS; day++)
    for (let part = 0; part < PARTS_A_DAY; part++) {
      const at = day * PARTS_A_DAY + part;
      if (!parts[at] || (part > 0 && parts[at - 1])) continue;
      let end = part;
      while (end < PARTS_A_DAY && parts[day * PARTS_A_DAY + end]) end++;
      week.push({ day, from: part * PART_MINUTES, to: end * PART_MINUTES });
    }
  return week;
}

/** When a week is open next, as clocks of the zone show it: now, where it is open; null where it never is. */
export function opensAt(week: Week, zone: string, now: Date): Date | null {
  const wall = wallIn(zone, now);
  const minute = wall.hour * 60 + wall.minute;
  const today = weekdayOf(wall);
  if (week.some(({ day, from, to }) => day === today && from <= minute && minute < to)) return now;
  // The same day of the next week may be the first one.
  for (let days = 0; days <= DAYS; days++) {
    const date = addDays(wall, days);
    const starts = week.filter(({ day }) => day === weekdayOf(date)).map(({ from }) => from);
    const times = starts.map((from) => instantOf(zone, { ...date, hour: Math.floor(from / 60), minute: from % 60 }));
    const next = times.filter((time) => time > now).sort((a, b) => a.getTime() - b.getTime())[0];
    if (next) return next;
  }
  return null;
}

/** Weeks that share no time are given up after so many steps: each step goes on to another start of a stretch. */
const MOST_STEPS = 2 * DAYS * PARTS_A_DAY;

/** When all of some weeks are open together next; null where they never are. */
export function opensTogether(weeks: readonly Week[], zone: string, now: Date): Date | null {
  let at = now;
  for (let step = 0; step < MOST_STEPS; step++) {
    const opens = weeks.map((week) => opensAt(week, zone, at));
    if (opens.includes(null)) return null;
    const last = opens.reduce<Date>((latest, one) => (one! > latest ? one! : latest), at);
    if (last.getTime() === at.getTime()) return at;
    at = last;
  }
  return null;
}

const DAY_NAMES = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
export const dayName = (day: number): string => DAY_NAMES[day]!;
export const minuteText = (minute: number): string =>
  `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;

/** "Mon–Fri 08:00–09:00, 13:00–13:30; Sat 10:00–11:00" */
export function weekText(week: Week): string {
  const days = DAY_NAMES.map((_, day) =>
    weekOf(partsOf(week))
      .filter((stretch) => stretch.day === day)
      .map(({ from, to }) => `${minuteText(from)}–${minuteText(to)}`)
      .join(", "),
  );
  const said: string[] = [];
  for (let day = 0; day < DAYS; day++) {
    if (days[day] === "" || (day > 0 && days[day] === days[day - 1])) continue;
    let last = day;
    while (last + 1 < DAYS && days[last + 1] === days[day]) last++;
    said.push(`${dayName(day)}${last > day ? `–${dayName(last)}` : ""} ${days[day]}`);
  }
  return said.length === 0 ? "never" : said.join("; ");
}
