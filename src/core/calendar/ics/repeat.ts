import { readRepeat } from "../../agenda";

/**
 * How often a to-do comes again, as RFC 5545 says it (3.3.10), and back. The 31st is the last day of a month that has
 * none: the days that may be meant, and of those the last.
 */
const FREQUENCIES = { day: "DAILY", week: "WEEKLY", month: "MONTHLY", year: "YEARLY" } as const;
const UNITS: Readonly<Record<string, keyof typeof FREQUENCIES>> = {
  DAILY: "day",
  WEEKLY: "week",
  MONTHLY: "month",
  YEARLY: "year",
};
const WORKDAYS = "MO,TU,WE,TH,FR";
const FIRST_MISSING = 29;

const lastOf = (day: number): string =>
  `;BYMONTHDAY=${Array.from({ length: day - FIRST_MISSING + 2 }, (_, i) => FIRST_MISSING - 1 + i).join()};BYSETPOS=-1`;

/** The month and day a to-do is due on, by the clock on the wall; months from 1. */
export interface DueDay {
  readonly month: number;
  readonly day: number;
}

/** The day that is meant, where some months have not got it. */
function meantDay(unit: string, on: number | null, { month, day }: DueDay): number | null {
  const meant = on ?? day;
  if (unit === "month") return meant >= FIRST_MISSING ? meant : null;
  return unit === "year" && meant === FIRST_MISSING && month === 2 ? meant : null;
}

/** @param due when it is due now @returns the value of an RRULE; null where there is none that means the same */
export function ruleOfRepeat(repeat: string, due: DueDay): string | null {
  const read = readRepeat(repeat);
  if (!read) return null;
  const { every, unit, on } = read;
  if (unit === "workday") return every === 1 ? `FREQ=WEEKLY;BYDAY=${WORKDAYS}` : null;
  const often = `FREQ=${FREQUENCIES[unit]}${every === 1 ? "" : `;INTERVAL=${every}`}`;
  const day = meantDay(unit, on, due);
  return day === null ? often : `${often}${unit === "year" ? ";BYMONTH=2" : ""}${lastOf(day)}`;
}

/** A rule that says the same in other words and another order is the same text. */
const plain = (rule: string): string =>
  rule
    .toUpperCase()
    .split(";")
    .filter((part) => part !== "INTERVAL=1" && !part.startsWith("WKST="))
    .map((part) => part.replace(/(?<==).*/, (values) => values.split(",").sort().join()))
    .sort()
    .join(";");

/** @param rule the value of an RRULE @returns how often a task comes again; null where a task cannot come so */
export function repeatOfRule(rule: string, due: DueDay): string | null {
  const valueOf = (name: string) => new RegExp(`(?:^|;)${name}=([^;]*)`, "i").exec(rule)?.[1];
  const unit = UNITS[valueOf("FREQ")?.toUpperCase() ?? ""];
  if (!unit) return null;
  const often = `${valueOf("INTERVAL") ?? 1} ${unit}`;
  const ours = ["1 workday", often, ...[29, 30, 31].map((day) => `${often} on ${day}`)];
  return ours.find((repeat) => plain(ruleOfRepeat(repeat, due) ?? "") === plain(rule)) ?? null;
}
