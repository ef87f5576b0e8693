import { addDays, addMonths, instantOf, wallIn, weekdayOf, type Wall } from "./zone";

/**
 * Times as people write them, read against a clock and a zone that are given:
 *
 *   when  = ISO-date-time | [day] [time] | "now" | shift [time]
 *   day   = "today" | "tomorrow" | ["next"] weekday | ISO-date | number month [year]
 *   shift = "+" number unit | "in" number unit        unit: min h d w mo y (and longer spellings)
 *   time  = ["at"] hour [":" minute] ["am" | "pm"]
 *
 * A day without a time is at the start of the working day. A weekday is the next one after today;
 * "next" before it means the one in the following week (weeks start on Monday).
 */
export type When = { readonly ok: true; readonly at: Date } | { readonly ok: false; readonly problem: string };

/** A day without a time means this hour. */
export const DAY_STARTS_AT_HOUR = 9;

const WEEKDAYS = ["mon", "tue", "wed", "thu", "fri", "sat", "sun"];
const MONTHS = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
const UNITS: Record<string, "minute" | "hour" | "day" | "week" | "month" | "year"> = {
  min: "minute",
  minute: "minute",
  minutes: "minute",
  h: "hour",
  hour: "hour",
  hours: "hour",
  d: "day",
  day: "day",
  days: "day",
  w: "week",
  week: "week",
  weeks: "week",
  mo: "month",
  month: "month",
  months: "month",
  y: "year",
  year: "year",
  years: "year",
};
/** Days a unit has at the most; nobody means more than a few lifetimes, and no calendar holds much more. */
const DAYS = { minute: 1 / 1440, hour: 1 / 24, day: 1, week: 7, month: 31, year: 366 };
const MOST_DAYS = 366 * 500;
/** Years in which a time can be meant. */
const [FIRST_YEAR, LAST_YEAR] = [1900, 9999];

const TOO_FAR = "that is too far away";
const no = (problem: string): When => ({ ok: false, problem });

/** Weekday or month names count from their first three letters on: "thu", "thur", "thursday". */
const FULL_DAYS = ["monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"];
const FULL_MONTHS = "january february march april may june july august september october november december".split(" ");
const nameIndex = (word: string, short: string[], full: string[]): number =>
  word.length < 3 ? -1 : short.findIndex((name, i) => word.startsWith(name) && full[i]!.startsWith(word));

function timeOf(words: readonly string[]): { hour: number; minute: number } | null {
  const text = words.filter((word) => word !== "at").join("");
  const found = /^(\d{1,2})(?:[:.](\d{2}))?(am|pm)?$/.exec(text);
  if (!found) return null;
  let hour = Number(found[1]);
  const minute = Number(found[2] ?? 0);
  if (found[3]) {
    if (hour < 1 || hour > 12) return null;
    hour = (hour % 12) + (found[3] === "pm" ? 12 : 0);
  }
  return hour < 24 && minute < 60 ? { hour, minute } : null;
}

const realDay = (year: number, month: number, day: number): boolean => {
  const date = new Date(Date.UTC(year, month - 1, day));
  return date.getUTCMonth() === month - 1 && date.getUTCDate() === day;
};

interface Day {
  readonly wall: Wall;
  /** How many words named the day. */
  readonly used: number;
}

function dayOf(words: readonly string[], today: Wall): Day | string | null {
  const [first = "", second = "", third = ""] = words;
  if (first === "today") return { wall: today, used: 1 };
  if (first === "tomorrow") return { wall: addDays(today, 1), used: 1 };
  const next = first === "next";
  const weekday = nameIndex(next ? second : first, WEEKDAYS, FULL_DAYS);
  if (weekday >= 0) {
    const ahead = weekday - weekdayOf(today);
    const days = next ? ahead + 7 : ahead > 0 ? ahead : ahead + 7;
    return { wall: addDays(today, days), used: next ? 2 : 1 };
  }
  if (next && second === "week") return { wall: addDays(today, 7 - weekdayOf(today)), used: 2 };
  const iso = /^(\d{4})-(\d{2})-(\d{2})$/.exec(first);
  const month = nameIndex(second, MONTHS, FULL_MONTHS);
  if (!iso && (month < 0 || !/^\d{1,2}$/.test(first))) return null;
  const yearGiven = /^\d{4}$/.test(third);
  const [given, monthNumber, day] = iso
    ? [Number(iso[1]), Number(iso[2]), Number(iso[3])]
    : [yearGiven ? Number(third) : today.year, month + 1, Number(first)];
  // "5 mar" in November is next year's.
  const over = monthNumber < today.month || (monthNumber === today.month && day < today.day);
  const year = !iso && !yearGiven && over ? given + 1 : given;
  // The platform takes years of two digits for those of the last century.
  if (year < FIRST_YEAR) return TOO_FAR;
  if (!realDay(year, monthNumber, day)) return `there is no ${words.slice(0, iso ? 1 : 2).join(" ")}`;
  return { wall: { ...today, year, month: monthNumber, day }, used: iso ? 1 : yearGiven ? 3 : 2 };
}

function shifted(amount: number, unit: string, zone: string, now: Date, words: readonly string[]): When {
  const kind = UNITS[unit];
  if (!kind) return no(`"${unit}" is no unit of time: use min, h, d, w, mo or y`);
  if (amount * DAYS[kind] > MOST_DAYS) return no(TOO_FAR);
  const exact = kind === "minute" ? 60_000 : kind === "hour" ? 3_600_000 : 0;
  if (exact > 0)
    return words.length > 0
      ? no(`"${words.join(" ")}" does not fit after an exact span`)
      : { ok: true, at: new Date(now.getTime() + amount * exact) };
  const time = words.length > 0 ? timeOf(words) : { hour: DAY_STARTS_AT_HOUR, minute: 0 };
  if (!time) return no(`"${words.join(" ")}" is no time of day: write it like 9 or 17:30`);
  const today = { ...wallIn(zone, now), ...time };
  const months = kind === "month" ? amount : kind === "year" ? amount * 12 : 0;
  const wall = months > 0 ? addMonths(today, months) : addDays(today, kind === "week" ? amount * 7 : amount);
  return { ok: true, at: instantOf(zone, wall) };
}

/**
 * @param text what the person wrote
 * @param now the clock
 * @param zone an IANA zone name, such as "Europe/Zurich"
 */
export function readWhen(text: string, now: Date, zone: string): When {
  const when = readAny(text, now, zone);
  if (!when.ok) return when;
  const year = when.at.getUTCFullYear();
  return year >= FIRST_YEAR && year <= LAST_YEAR ? when : no(TOO_FAR);
}

function readAny(text: string, now: Date, zone: string): When {
  const trimmed = text.trim().toLowerCase();
  if (trimmed === "") return no("write a time, such as tomorrow 9, +3d or next mon");
  if (trimmed.length > 60) return no("that is too long for a time");
  if (/^\d{4}-\d\d-\d\dt/.test(trimmed)) {
    const at = new Date(text.trim());
    const zoned = /(z|[+-]\d\d:?\d\d)$/.test(trimmed);
    if (Number.isNaN(at.getTime())) return no(`"${text.trim()}" is no date and time`);
    if (zoned) return { ok: true, at };
    const [, y, mo, d, h, mi] = /^(\d{4})-(\d\d)-(\d\d)t(\d\d):(\d\d)/.exec(trimmed)?.map(Number) ?? [];
    if (y === undefined || mo === undefined || d === undefined || h === undefined || mi === undefined)
      return no(`"${text.trim()}" is no date and time`);
    return { ok: true, at: instantOf(zone, { year: y, month: mo, day: d, hour: h, minute: mi }) };
  }
  if (trimmed === "now") return { ok: true, at: now };
  const shift = /^(?:\+|in\s+)(\d{1,9})\s*([a-z]+)(?:\s+(.*))?$/.exec(trimmed);
  if (shift) return shifted(Number(shift[1]), shift[2]!, zone, now, shift[3]?.split(/\s+/) ?? []);

  const words = trimmed.split(/\s+/);
  const today = wallIn(zone, now);
  const day = dayOf(words, today);
  if (typeof day === "string") return no(day);
  const rest = words.slice(day?.used ?? 0);
  const time = rest.length > 0 ? timeOf(rest) : day ? { hour: DAY_STARTS_AT_HOUR, minute: 0 } : null;
  if (!time) return no(`"${text.trim()}" is no time: try tomorrow 9, +3d, next mon or 2026-12-05`);
  const at = instantOf(zone, { ...(day?.wall ?? today), ...time });
  // A bare time of day that has passed means tomorrow's.
  if (!day && at <= now) return { ok: true, at: instantOf(zone, { ...addDays(today, 1), ...time }) };
  return { ok: true, at };
}
