import type { CalendarEvent } from "../change";
import { budget, lastOf, timesOf, type Budget } from "./rule";
import { DAY_MS, instantAt, isDay, readWall, wallOf } from "./wall";

/** One time that an event takes place. */
export interface Occurrence {
  /** By its wall clock, as its series has it: which one of them it is. */
  readonly at: string;
  /** Instants, ms; an end that is its start is a moment. */
  readonly start: number;
  readonly end: number;
}

/** What is looked at, instants (ms): what ends after the first and begins before the second. */
export interface Range {
  readonly from: number;
  readonly to: number;
}

const RULE_MOST = 2000;
/** Clocks of no two zones differ by more. */
const MARGIN_MS = DAY_MS + 3_600_000;

/** The zone an event's clock hangs in. @param home the person's */
export const zoneOf = ({ zone }: Pick<CalendarEvent, "zone">, home: string): string => (zone === "" ? home : zone);

/** From when to when something lasts that begins at a time by the wall. Whole days end as clocks show midnight. */
export function spanAt(event: CalendarEvent, wall: number, home: string): Pick<Occurrence, "start" | "end"> {
  const zone = zoneOf(event, home);
  const start = instantAt(zone, wall);
  const length = event.length * 1000;
  return { start, end: isDay(event.start) ? instantAt(zone, wall + length) : start + length };
}

/** What of an event's own times its series does not have, for instances of their own stand in their place. */
export type Instead = ReadonlySet<string>;
const NONE: Instead = new Set();

/** All times within a span of wall clock, unsorted: by rules and dates, less what is excepted. */
function wallTimes(
  event: CalendarEvent,
  from: number,
  to: number,
  spent: Budget,
): { times: Set<number>; cut: boolean } {
  const start = readWall(event.start);
  const times = new Set<number>();
  let cut = false;
  if (event.rule === null) times.add(start);
  else
    for (const rule of event.rule.split("\n")) {
      const found = timesOf(rule, start, { from, to }, RULE_MOST, spent);
      for (const time of found.times) times.add(time);
      cut ||= found.cut;
    }
  for (const one of event.also) times.add(readWall(one));
  for (const one of event.except) times.delete(readWall(one));
  return { times, cut };
}

/**
 * When an event takes place within a range, in order.
 * @param home the person's zone, for what hangs in none
 * @param instead those of its series that stand elsewhere
 * @param spent shared by all that are looked at together
 * @returns and whether there are more of them than could be looked at
 */
export function occurrences(
  event: CalendarEvent,
  range: Range,
  home: string,
  instead: Instead = NONE,
  spent: Budget = budget(),
): { readonly list: readonly Occurrence[]; readonly cut: boolean } {
  if (event.state === "cancelled") return { list: [], cut: false };
  const length = event.length * 1000;
  const { times, cut } = wallTimes(event, range.from - length - MARGIN_MS, range.to + MARGIN_MS, spent);
  const whole = isDay(event.start);
  const list: Occurrence[] = [];
  for (const wall of times) {
    const at = wallOf(wall, whole);
    if (instead.has(at)) continue;
    const { start, end } = spanAt(event, wall, home);
    // A moment at the very beginning counts, as whatever else begins there.
    if (start < range.to && (end > range.from || start === range.from)) list.push({ at, start, end });
  }
  return { list: list.sort((a, b) => a.start - b.start), cut };
}

/**
 * Between which instants an event may take place: what is looked for by time is found by them. Whole days and times
 * without a zone count wherever the person is.
 * @returns the end null where it may always come again
 */
export function boundsOf(event: CalendarEvent, home: string): { readonly start: number; readonly end: number | null } {
  const margin = event.zone === "" ? MARGIN_MS : 0;
  const first = Math.min(...[event.start, ...event.also].map(readWall));
  const start = spanAt(event, first, home).start - margin;
  const lasts = (event.rule?.split("\n") ?? []).map((rule) => lastOf(rule, readWall(event.start)));
  if (lasts.includes(null)) return { start, end: null };
  const last = Math.max(...[event.start, ...event.also].map(readWall), ...lasts.map((one) => one!));
  return { start, end: spanAt(event, last, home).end + margin };
}

type Named = Pick<CalendarEvent, "calendar" | "uid" | "instead">;

/** Which times of each series stand elsewhere, as instances of their own. */
export function elsewhereIn(events: readonly Named[]): (event: Named) => Instead {
  const by = new Map<string, Set<string>>();
  const nameOf = ({ calendar, uid }: Named) => `${calendar} ${uid}`;
  for (const event of events)
    if (event.instead !== null) by.set(nameOf(event), (by.get(nameOf(event)) ?? new Set()).add(event.instead));
  return (event) => (event.instead === null && by.get(nameOf(event))) || NONE;
}
