import * as library from "rrule";
import type { Options, RRule as Rule } from "rrule";

/** The library has names to import for bundlers; to Node by itself it is one object without any. */
const { RRule } = ("RRule" in library ? library : (library as { default: unknown }).default) as typeof library;
type RRule = Rule;

/** Recurrence rules of RFC 5545, on wall clocks. The library says when; here it is kept from doing so for ever. */

/** How much may still be looked at: each day, hour or minute that a rule goes through costs one. */
export interface Budget {
  left: number;
}

/** For all events of one look, and for one of them. */
export const budget = (): Budget => ({ left: 150_000 });
const MOST_FOR_ONE = 20_000;

class Spent extends Error {}

/** An array that notices how often something is looked for in it. */
class Counted extends Array<number> {
  spend: () => void = () => undefined;
  override indexOf(value: number, from?: number): number {
    this.spend();
    return super.indexOf(value, from);
  }
}

const COUNTED = ["byhour", "byminute", "bysecond"] as const;

/**
 * Lets a rule's own loops end: the library goes through time until it finds something, and some rules never match.
 * It reads the months of its rule for each day, and looks hours, minutes and seconds up in their arrays; both cost.
 */
function bounded(rule: RRule, spend: () => void): void {
  const { options } = rule;
  const months = options.bymonth;
  Object.defineProperty(options, "bymonth", {
    get: () => {
      spend();
      return months;
    },
  });
  for (const name of COUNTED) {
    const values = options[name];
    if (!Array.isArray(values)) continue;
    const counted = Counted.from(values) as Counted;
    counted.spend = spend;
    options[name] = counted;
  }
}

const PART =
  /^(FREQ|UNTIL|COUNT|INTERVAL|WKST|BY(?:SECOND|MINUTE|HOUR|DAY|MONTHDAY|YEARDAY|WEEKNO|MONTH|SETPOS))=(.+)$/;
const FREQUENCIES = ["SECONDLY", "MINUTELY", "HOURLY", "DAILY", "WEEKLY", "MONTHLY", "YEARLY"];
/** The least and the greatest of each list of numbers, by RFC 5545. */
const RANGES: Record<string, readonly [number, number]> = {
  BYSECOND: [0, 60],
  BYMINUTE: [0, 59],
  BYHOUR: [0, 23],
  BYMONTHDAY: [-31, 31],
  BYYEARDAY: [-366, 366],
  BYWEEKNO: [-53, 53],
  BYMONTH: [1, 12],
  BYSETPOS: [-366, 366],
};
const WEEKDAYS = /^([+-]?[1-9]\d?)?(MO|TU|WE|TH|FR|SA|SU)$/;
export const UNTIL = /^\d{8}(T\d{6}Z?)?$/;

/** What is wrong with a rule, in words; null where it is one. */
export function troubleOf(text: string): string | null {
  const seen = new Map<string, string>();
  for (const part of text.split(";")) {
    const [, name = "", value = ""] = PART.exec(part) ?? [];
    if (name === "") return `"${part}" is no part of a recurrence rule`;
    if (seen.has(name)) return `${name} stands in it twice`;
    seen.set(name, value);
    const range = RANGES[name];
    if (range && !value.split(",").every((one) => /^[+-]?\d{1,3}$/.test(one) && inRange(Number(one), range, name)))
      return `${name}=${value} is out of its range`;
    if (name === "BYDAY" && !value.split(",").every((one) => WEEKDAYS.test(one))) return `BYDAY=${value} is no weekday`;
    if (name === "WKST" && !/^(MO|TU|WE|TH|FR|SA|SU)$/.test(value)) return `WKST=${value} is no weekday`;
    if ((name === "COUNT" || name === "INTERVAL") && !/^[1-9]\d{0,8}$/.test(value))
      return `${name}=${value} is no count`;
    if (name === "UNTIL" && !UNTIL.test(value)) return `UNTIL=${value} is no time`;
  }
  if (!FREQUENCIES.includes(seen.get("FREQ") ?? "")) return "it says not how often (FREQ)";
  return seen.has("COUNT") && seen.has("UNTIL") ? "it ends twice: by COUNT and by UNTIL" : null;
}

const inRange = (value: number, [least, greatest]: readonly [number, number], name: string): boolean =>
  value >= least && value <= greatest && (value !== 0 || least === 0 || name === "BYMONTH");

const SECOND_MS = 1000;
const STEP_MS: Partial<Record<number, number>> = {
  [RRule.SECONDLY]: SECOND_MS,
  [RRule.MINUTELY]: 60 * SECOND_MS,
  [RRule.HOURLY]: 3600 * SECOND_MS,
  [RRule.DAILY]: 86_400 * SECOND_MS,
  [RRule.WEEKLY]: 7 * 86_400 * SECOND_MS,
};

/** Two steps before a time, so that nothing that begins in the step itself is missed. */
function startBefore(
  start: number,
  from: number,
  { freq = RRule.YEARLY, interval = 1, count }: Partial<Options>,
): number {
  const step = (STEP_MS[freq] ?? 0) * (interval ?? 1);
  // Those that are counted have to be gone through from their first; years and months are few.
  if (step === 0 || typeof count === "number" || start >= from) return start;
  return start + Math.max(0, Math.floor((from - start) / step) - 2) * step;
}

/** What the library makes of a rule whose UNTIL, if any, is by the wall clock. */
function optionsOf(text: string, start: number): Partial<Options> {
  const options = RRule.parseString(text.replace(/(?<=UNTIL=\d{8}T\d{6})(?!Z)/, "Z"));
  // A last day counts whole.
  if (options.until && /UNTIL=\d{8}(;|$)/.test(text)) options.until = new Date(options.until.getTime() + 86_399_000);
  // A leap second is the second before it to clocks that have none.
  if (Array.isArray(options.bysecond)) options.bysecond = options.bysecond.map((one) => Math.min(59, one));
  return { ...options, dtstart: new Date(start) };
}

/** Calendars go no further. */
const END_OF_TIME = Date.UTC(9999, 11, 31);

interface Span {
  readonly from: number;
  /** The last instant that counts. */
  readonly to: number;
}

/**
 * When a rule has something, by wall clocks (ms). Its start always counts, as RFC 5545 says of DTSTART.
 * @param text as troubleOf finds it right; its UNTIL by the wall clock
 * @param most how many are wanted
 * @returns in order, and whether there may be more than was looked for
 */
export function timesOf(
  text: string,
  start: number,
  { from, to }: Span,
  most: number,
  spent: Budget,
): { readonly times: readonly number[]; readonly cut: boolean } {
  const times: number[] = [];
  if (start >= from && start <= to) times.push(start);
  let options = optionsOf(text, start);
  if (typeof options.count === "number") {
    const end = countedEnd(text, start, options, spent);
    // One whose end is not known is gone through from its first.
    if (end !== null) options = { ...options, count: null, until: new Date(end) };
    if (end !== null && end < from) return { times, cut: false };
  }
  const begin = startBefore(start, from, options);
  const { cut } = walk({ ...options, dtstart: new Date(begin) }, { from, to }, spent, (time) => {
    if (time !== start) times.push(time);
    return times.length < most;
  });
  return { times, cut };
}

/**
 * Tells what a rule has in a span, one by one, until that is enough.
 * @returns whether there is more, or may be
 */
function walk(
  options: Partial<Options>,
  { from, to }: Span,
  spent: Budget,
  take: (time: number) => boolean,
): { readonly cut: boolean } {
  const rule = new RRule(options, true);
  let own = Math.min(MOST_FOR_ONE, spent.left);
  bounded(rule, () => {
    spent.left--;
    if (--own < 0) throw new Spent();
  });
  let cut = false;
  try {
    rule.between(new Date(from), new Date(to), true, (date) => !(cut = !take(date.getTime())));
  } catch (error) {
    if (!(error instanceof Spent)) throw error;
    cut = true;
  }
  return { cut };
}

/** Ends that were counted out, the newest last. */
const ends = new Map<string, number>();
const MOST_ENDS = 5000;

/** When the last of what is counted is, by the wall clock; counted once. Null where nobody can say in time. */
function countedEnd(text: string, start: number, options: Partial<Options>, spent: Budget): number | null {
  const key = `${start} ${text}`;
  const known = ends.get(key);
  if (known !== undefined) return known;
  // A start that its rule does not have is one of those it is counted by.
  const count = options.count! - (startsIn(options, start) ? 0 : 1);
  let end = start;
  if (count > 0) {
    const span = { from: start, to: END_OF_TIME };
    const { cut } = walk({ ...options, count }, span, spent, (time) => {
      end = time;
      return true;
    });
    if (cut) return null;
  }
  if (ends.size >= MOST_ENDS) ends.clear();
  ends.set(key, end);
  return end;
}

/** Whether a rule itself has its start. */
function startsIn(options: Partial<Options>, start: number): boolean {
  // What names no days or times has those of its start.
  if (!Object.keys(options).some((name) => name.startsWith("by"))) return true;
  const rule = new RRule({ ...options, count: 1, until: null, dtstart: new Date(start) }, true);
  let own = MOST_FOR_ONE;
  bounded(rule, () => {
    if (--own < 0) throw new Spent();
  });
  try {
    return rule.after(new Date(start - 1), true)?.getTime() === start;
  } catch (error) {
    if (error instanceof Spent) return false;
    throw error;
  }
}

/** When a rule is over, by its wall clock (ms); null where it never is, or nobody can say in time. */
export function lastOf(text: string, start: number): number | null {
  const until = /UNTIL=(\d{4})(\d{2})(\d{2})(?:T(\d{2})(\d{2})(\d{2}))?/.exec(text)?.slice(1);
  if (until) {
    const [year = 0, month = 0, day = 0, hour = 23, minute = 59, second = 59] = until.map((one) =>
      one === undefined ? undefined : Number(one),
    );
    return Date.UTC(year, month - 1, day, hour, minute, second);
  }
  return text.includes("COUNT=") ? countedEnd(text, start, optionsOf(text, start), budget()) : null;
}
