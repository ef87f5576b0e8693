import { readRepeat, readTask } from "../agenda";
import { DAY_MS, wallAt, wallOf } from "./wall";
import { WORKDAYS } from "./words";

/** An event as it is written in one line. */
export interface EventLine {
  readonly title: string;
  readonly place: string;
  /** By the wall clock, as events have it. */
  readonly start: string;
  /** Seconds. */
  readonly length: number;
  /** RFC 5545 */
  readonly rule: string | null;
}

const USUAL_MINUTES = 60;
const USUAL_CLOCK = "09:00";
const CLOCK = /^\d{1,2}[:.]\d{2}$/;
/** "10-12", "9:30-11", "10–12.15" */
const STRETCH = /^(\d{1,2})(?:[:.](\d{2}))?[-–](\d{1,2})(?:[:.](\d{2}))?$/;
const FREQUENCY = { day: "DAILY", week: "WEEKLY", month: "MONTHLY", year: "YEARLY" } as const;

/** A task's way of coming again as a recurrence rule. */
export function ruleOf(repeat: string): string | null {
  const read = readRepeat(repeat);
  if (!read) return null;
  const interval = read.every === 1 ? "" : `;INTERVAL=${read.every}`;
  // Each second workday has no name in rules: each workday is nearest.
  return read.unit === "workday" ? WORKDAYS : `FREQ=${FREQUENCY[read.unit]}${interval}`;
}

/** "10-12" among the words: from when, and how many minutes. */
function stretchIn(
  words: readonly string[],
): { readonly at: number; readonly from: string; readonly minutes: number } | null {
  for (let at = words.length - 1; at > 0; at--) {
    const found = STRETCH.exec(words[at]!);
    if (!found) continue;
    const [from, to] = [Number(found[1]) * 60 + Number(found[2] ?? 0), Number(found[3]) * 60 + Number(found[4] ?? 0)];
    if (from < to && to <= 24 * 60) return { at, from: `${found[1]}:${found[2] ?? "00"}`, minutes: to - from };
  }
  return null;
}

/**
 * Reads an event as somebody writes it down: "inspection tue 10-12 at Tarn Hut", "stocktaking 5 dec all day",
 * "team 9 30m every workday". A place stands last, behind "@"; what says no day is on the day that is shown.
 * @param day the day that is shown, "2026-11-27"
 */
export function readEvent(line: string, day: string, now: Date, zone: string): EventLine {
  const [said = "", ...where] = line.split(/\s@\s*/);
  const place = where.join(" @ ").trim();
  let words = said.trim().split(/\s+/);
  const whole = words.length > 2 && /^all$/i.test(words.at(-2)!) && /^day$/i.test(words.at(-1)!);
  if (whole) words = words.slice(0, -2);
  const stretch = whole ? null : stretchIn(words);
  if (stretch) words = [...words.slice(0, stretch.at), stretch.from, ...words.slice(stretch.at + 1)];
  // A time by itself is one of the day that is shown.
  const at = words.findLastIndex((word, i) => i > 0 && CLOCK.test(word));
  const clock = at < 0 ? USUAL_CLOCK : words[at]!.replace(".", ":").padStart(5, "0");
  const timed = at < 0 ? words : words.toSpliced(at, 1, "at", clock);
  const alone = readTask((at < 0 ? words : words.toSpliced(at, 1)).join(" "), now, zone);
  const saysDay = alone.due !== null;
  const read = saysDay ? readTask(timed.join(" "), now, zone) : alone;
  const start = read.due === null ? `${day}T${clock}` : wallOf(wallAt(zone, Date.parse(read.due)));
  const minutes = stretch?.minutes ?? read.estimate ?? USUAL_MINUTES;
  return {
    title: read.title,
    place,
    start: whole ? start.slice(0, 10) : start,
    length: whole ? DAY_MS / 1000 : minutes * 60,
    rule: read.repeat === null ? null : ruleOf(read.repeat),
  };
}
