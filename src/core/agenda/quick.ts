import { readWhen } from "../when";
import { repeatOf, type Unit } from "./repeat";

/** A task as it is written in one line. */
export interface Quick {
  readonly title: string;
  /** ISO 8601 in UTC. */
  readonly due: string | null;
  /** Minutes. */
  readonly estimate: number | null;
  readonly pressing: boolean;
  /** As core/agenda/repeat reads it. */
  readonly repeat: string | null;
}

const LONGEST_ESTIMATE = 10_000;
const LONGEST_WHEN = 5;
/** What a date begins with, so that the 14 of "beds for 14" is none. */
const DAY = /^(today|tomorrow|next|in|at|\+\d+\w*|mon|tue|wed|thu|fri|sat|sun|\d{4}-\d{2}-\d{2}\S*)/;
const DAY_OF_MONTH = /^\d{1,2}$/;
const MONTH = /^(jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)/;

/** "30m", "1h", "1h30", "1.5h", "90 min": minutes; null where it is none. */
function estimateOf(word: string): number | null {
  const found = /^(?:(\d{1,3}(?:[.,]\d)?)h(\d{1,2})?|(\d{1,4})(?:m|min))$/.exec(word);
  if (!found) return null;
  const minutes = found[3]
    ? Number(found[3])
    : Math.round(Number(found[1]!.replace(",", ".")) * 60) + Number(found[2] ?? 0);
  return minutes >= 1 && minutes <= LONGEST_ESTIMATE ? minutes : null;
}

const UNITS: Record<string, Unit> = {
  day: "day",
  days: "day",
  workday: "workday",
  workdays: "workday",
  week: "week",
  weeks: "week",
  month: "month",
  months: "month",
  year: "year",
  years: "year",
};
const WEEKDAY = /^(mon|tues?|wed(nes)?|thu(rs?)?|fri|sat(ur)?|sun)(day)?$/;

/** "every week", "every 2 weeks", "every monday": how often, and what of it says when the first is. */
function repeatIn(words: readonly string[]): { repeat: string; used: number; day: string | null } | null {
  if (words[0] !== "every") return null;
  const [, first = "", second = ""] = words;
  if (WEEKDAY.test(first)) return { repeat: repeatOf(1, "week"), used: 2, day: first };
  if (UNITS[first] && !first.endsWith("s")) return { repeat: repeatOf(1, UNITS[first]), used: 2, day: null };
  const every = /^[1-9]\d?$/.test(first) ? Number(first) : 0;
  return every > 0 && UNITS[second] ? { repeat: repeatOf(every, UNITS[second]), used: 3, day: null } : null;
}

const mayBegin = (words: readonly string[]): boolean =>
  DAY.test(words[0]!) || (DAY_OF_MONTH.test(words[0]!) && MONTH.test(words[1] ?? ""));

/**
 * Reads a task as somebody writes it down: "ring the helicopter people fri 10 30m !", "check the stove every week".
 * What stands at its end says when, how long, how often and, by "!", that it presses; the rest is what is to be done.
 * What is in double quotes is never read. A line that is all date is a title.
 */
export function readTask(line: string, now: Date, zone: string): Quick {
  // What is in quotes stays whole, and is no date.
  const all = line.trim().match(/"[^"]*"|\S+/g) ?? [];
  let end = all.length;
  let quick: Omit<Quick, "title"> = { due: null, estimate: null, pressing: false, repeat: null };
  const last = (count: number) => all.slice(end - count, end).map((word) => word.toLowerCase());
  const takeOne = (): boolean => {
    const [word = ""] = last(1);
    if (word === "!" && !quick.pressing) {
      quick = { ...quick, pressing: true };
      end--;
      return true;
    }
    const minutes = quick.estimate === null ? estimateOf(word) : null;
    if (minutes !== null) {
      quick = { ...quick, estimate: minutes };
      end--;
      return true;
    }
    for (let count = Math.min(LONGEST_WHEN, end - 1); count > 0; count--) {
      const words = last(count);
      const repeat = quick.repeat === null ? repeatIn(words) : null;
      if (repeat) {
        // "every fri 10" is on Fridays, from the next on.
        const rest = words.slice(repeat.used);
        const when = [...(repeat.day ? [repeat.day] : []), ...rest].join(" ");
        const read = when === "" ? null : readWhen(when, now, zone);
        if (read && !read.ok) continue;
        quick = { ...quick, repeat: repeat.repeat, due: read ? read.at.toISOString() : quick.due };
        end -= count;
        return true;
      }
      if (quick.due !== null || !mayBegin(words)) continue;
      const when = readWhen(words.join(" "), now, zone);
      if (!when.ok) continue;
      quick = { ...quick, due: when.at.toISOString() };
      end -= count;
      return true;
    }
    return false;
  };
  while (end > 1 && takeOne());
  const title = all
    .slice(0, end)
    .join(" ")
    .replace(/"([^"]*)"/g, "$1")
    .trim();
  // What comes again begins somewhere: tomorrow, where nothing else is said.
  const first = readWhen("tomorrow", now, zone);
  const due = quick.due ?? (quick.repeat !== null && first.ok ? first.at.toISOString() : null);
  return { ...quick, due, title };
}
