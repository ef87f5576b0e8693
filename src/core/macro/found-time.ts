import { daysInText, LONGEST_TEXT, type FoundDay } from "./found";

/** When something is to be, as a message says it. */
export interface FoundTime {
  /** "2026-12-05" */
  readonly day: string;
  /** "14:30"; null where only the day is said. */
  readonly from: string | null;
  /** How long, where it says until when; null otherwise. */
  readonly minutes: number | null;
}

const HALF = "([ap]\\.?m\\b\\.?)";
const CLOCK = `(\\d{1,2})(?:[:.h](\\d{2}))? ?${HALF}?`;
/** "10 to 12", "10:00–11:30", "from 2 to 3pm" */
const STRETCH = new RegExp(`(?<![\\d.,:'-])${CLOCK} ?(?:-|–|to|until|till) ?${CLOCK}(?![\\d.,:'%]\\d|\\d)`, "gi");
/** "14:30", "2pm", "at 14" */
const POINT = new RegExp(`(?<![\\d.,:'-])(\\bat )?${CLOCK}(?![\\d.,:'%]\\d|\\d)`, "gi");
/** What is money or a count and no time: "12.50 CHF", "at 14 francs". */
const NO_TIME =
  /^ ?(?:CHF|EUR|USD|GBP|SEK|NOK|DKK|francs?|euros?|[€$£%]|people|beds|nights|guests|persons|metres|m\b|km\b)/i;
const MONEY_BEFORE = /(?:CHF|EUR|USD|GBP|SEK|NOK|DKK|[€$£]) ?$/i;

/** Days that are looked at: a text that says more is a table, and asked about. */
const MOST_DAYS = 200;
/** A time belongs to a day that stands so near, in characters of the same paragraph. */
const NEAR = 70;

const pad = (n: number): string => String(n).padStart(2, "0");

/** Minutes since midnight; null where it is no time of the day. */
function minutesOf(hour: string, minute: string | undefined, half: string | undefined): number | null {
  let h = Number(hour);
  const m = Number(minute ?? 0);
  if (h > (half ? 12 : 23) || m > 59) return null;
  if (half) h = (h % 12) + (half.toLowerCase().startsWith("p") ? 12 : 0);
  return h * 60 + m;
}

interface Clock {
  readonly at: number;
  readonly end: number;
  readonly from: number;
  readonly to: number | null;
}

/** Times of the day in a text that stand near some day of it, without those that are part of a date. */
function clocksIn(text: string, days: readonly FoundDay[]): Clock[] {
  const out: Clock[] = [];
  const isFree = (at: number, end: number) =>
    days.some((day) => gap(day, { at, end }) <= NEAR) &&
    !days.some((day) => at < day.end && end > day.at) &&
    !out.some((one) => at < one.end && end > one.at) &&
    !NO_TIME.test(text.slice(end, end + 12)) &&
    !MONEY_BEFORE.test(text.slice(Math.max(0, at - 5), at));
  for (const match of text.matchAll(STRETCH)) {
    const [all, h, m, half, h2, m2, half2] = match;
    const to = minutesOf(h2!, m2, half2);
    // "2 to 3pm" is both in the afternoon.
    const from = minutesOf(h!, m, half ?? (half2 && Number(h) <= 12 ? half2 : undefined));
    // "beds 10 to 12" is no time: what stands by bare figures has to say that it is one.
    const saysSo =
      m !== undefined ||
      m2 !== undefined ||
      half2 !== undefined ||
      /(?:from|between|at) $/i.test(text.slice(Math.max(0, match.index - 8), match.index));
    if (from === null || to === null || from >= to || !saysSo || !isFree(match.index, match.index + all.length))
      continue;
    out.push({ at: match.index, end: match.index + all.length, from, to });
  }
  for (const match of text.matchAll(POINT)) {
    const [all, at, h, m, half] = match;
    const from = minutesOf(h!, m, half);
    // "12.50" by itself is a sum or a section.
    const saysSo = at !== undefined || half !== undefined || (m !== undefined && !/\d\.\d/.test(all));
    if (from === null || !saysSo || !isFree(match.index, match.index + all.length)) continue;
    out.push({ at: match.index, end: match.index + all.length, from, to: null });
  }
  return out;
}

/** A part of a text, in UTF-16 units. */
type Part = Pick<Clock, "at" | "end">;
const gap = (a: Part, b: Part): number => Math.max(0, a.at - b.end, b.at - a.end);

/** How far apart two parts of a text are; beyond reach where they are not near, or a paragraph ends between them. */
function apart(text: string, a: Part, b: Part): number {
  const far = gap(a, b);
  // What lies between is only looked at where that is short.
  return far > NEAR || /\n\s*\n/.test(text.slice(Math.min(a.end, b.end), Math.max(a.at, b.at))) ? Infinity : far;
}

/**
 * The times that a text speaks of, each day with the times said near it, in the order of the text. Days that had
 * passed when it was written are left out. Every pattern is linear, what
 * is far apart is not compared, and the text is cut to LONGEST_TEXT first.
 * @param sentMs when the message was sent
 */
export function timesInText(text: string, sentMs: number): FoundTime[] {
  const source = text.slice(0, LONGEST_TEXT);
  const days = daysInText(source, sentMs).slice(0, MOST_DAYS);
  const clocks = clocksIn(source, days);
  const out = new Map<string, FoundTime>();
  // Of several days near it a time is that of the nearest.
  const nearest = clocks.map((clock) => {
    const far = days.map((day) => apart(source, day, clock));
    const least = Math.min(...far);
    return least <= NEAR ? far.indexOf(least) : -1;
  });
  days.forEach(({ day }, i) => {
    const own = clocks.filter((_, k) => nearest[k] === i);
    if (own.length === 0) out.set(day, { day, from: null, minutes: null });
    for (const { from, to } of own) {
      const text = `${pad(Math.floor(from / 60))}:${pad(from % 60)}`;
      out.set(`${day} ${text}`, { day, from: text, minutes: to === null ? null : to - from });
    }
  });
  // A day that is said once with a time and once without is one.
  const timed = new Set([...out.values()].filter(({ from }) => from !== null).map(({ day }) => day));
  return [...out.values()].filter(({ day, from }) => from !== null || !timed.has(day));
}
