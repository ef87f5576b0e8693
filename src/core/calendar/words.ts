import type { Span } from "./free";
import { wallAt } from "./wall";

/** What is planned, in words. */

/**
 * A time as it is offered in a letter: "Tuesday 1 December, 10:00 to 11:00, Zurich time". The year stands where it is
 * another one than now's.
 */
export function offerText({ start, end }: Span, zone: string, now: Date): string {
  const year = (ms: number) => new Date(wallAt(zone, ms)).getUTCFullYear();
  const day = new Date(start).toLocaleDateString("en-GB", {
    timeZone: zone,
    weekday: "long",
    day: "numeric",
    month: "long",
    ...(year(start) === year(now.getTime()) ? {} : { year: "numeric" }),
  });
  const clock = (ms: number) => new Date(wallAt(zone, ms)).toISOString().slice(11, 16);
  const city = zone.split("/").at(-1)!.replaceAll("_", " ");
  return `${day.replace(",", "")}, ${clock(start)} to ${clock(end)}, ${city} time`;
}

const UNITS: Record<string, string> = {
  SECONDLY: "second",
  MINUTELY: "minute",
  HOURLY: "hour",
  DAILY: "day",
  WEEKLY: "week",
  MONTHLY: "month",
  YEARLY: "year",
};
const DAYS: Record<string, string> = { MO: "Mon", TU: "Tue", WE: "Wed", TH: "Thu", FR: "Fri", SA: "Sat", SU: "Sun" };
const PLACES: Record<string, string> = {
  "1": "first",
  "2": "second",
  "3": "third",
  "4": "fourth",
  "5": "fifth",
  "-1": "last",
  "-2": "last but one",
};

export const WORKDAYS = "FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR";

const listed = (words: readonly string[]): string =>
  words.length < 2 ? words.join("") : `${words.slice(0, -1).join(", ")} and ${words.at(-1)}`;

function dayText(one: string): string | null {
  const [, place = "", day = ""] = /^([+-]?\d+)?(MO|TU|WE|TH|FR|SA|SU)$/.exec(one) ?? [];
  const at = place.replace("+", "");
  if (!DAYS[day] || (at !== "" && !PLACES[at])) return null;
  return at === "" ? DAYS[day] : `the ${PLACES[at]} ${DAYS[day]}`;
}

/** "every 2 weeks on Mon and Wed, 5 times"; a rule of another kind as it is written. @param dateText "2026-11-27" in words */
export function ruleText(rule: string, dateText: (day: string) => string): string {
  const parts = new Map(rule.split(";").map((part) => part.split("=") as [string, string]));
  const { FREQ = "", INTERVAL = "1", COUNT, UNTIL, BYDAY, BYMONTHDAY, WKST: _, ...others } = Object.fromEntries(parts);
  const unit = UNITS[FREQ];
  const days = BYDAY?.split(",").map(dayText) ?? [];
  if (!unit || rule.includes("\n") || Object.keys(others).length > 0 || days.includes(null)) return rule;
  const isWorkdays = rule.startsWith(WORKDAYS) && INTERVAL === "1";
  const every = isWorkdays ? "every workday" : INTERVAL === "1" ? `every ${unit}` : `every ${INTERVAL} ${unit}s`;
  const on = isWorkdays ? [] : (days as string[]);
  const dates = BYMONTHDAY
    ? [`the ${listed(BYMONTHDAY.split(",").map((one) => (one === "-1" ? "last day" : `${one}.`)))}`]
    : [];
  const where = on.length + dates.length > 0 ? ` on ${listed([...on, ...dates])}` : "";
  const until = UNTIL ? `, until ${dateText(`${UNTIL.slice(0, 4)}-${UNTIL.slice(4, 6)}-${UNTIL.slice(6, 8)}`)}` : "";
  return `${every}${where}${COUNT ? `, ${COUNT} times` : ""}${until}`;
}
