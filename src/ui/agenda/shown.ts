import type { EventShape } from "@/core/api";
import {
  budget,
  DAY_MS,
  elsewhereIn,
  instantAt,
  isDay,
  occurrences,
  readWall,
  wallAt,
  wallOf,
  type Occurrence,
  type Range,
} from "@/core/calendar";

/** What is shown: each time of each event, and the days it is shown on. */

export interface Shown extends Occurrence {
  readonly event: EventShape;
  /** The same as long as it is there. */
  readonly key: string;
}

/** "2026-11-27" */
export type Day = string;

export const dayAt = (zone: string, at: number): Day => wallOf(wallAt(zone, at), true);
export const addDay = (day: Day, count: number): Day => wallOf(readWall(day) + count * DAY_MS, true);
export const monthOf = (day: Day): string => day.slice(0, 7);
/** Monday is the first. */
export const weekStart = (day: Day): Day => addDay(day, -((new Date(readWall(day)).getUTCDay() + 6) % 7));
/** From midnight to midnight, as clocks of the zone show it. */
export const rangeOf = (first: Day, days: number, zone: string): Range => ({
  from: instantAt(zone, readWall(first)),
  to: instantAt(zone, readWall(addDay(first, days))),
});

/** What was worked out of an event: its times in some ranges, and each of them by where its series has it. */
interface Kept {
  readonly ranges: Map<string, readonly Shown[]>;
  readonly times: Map<string, Shown>;
}
const kept = new WeakMap<EventShape, Kept>();
const MOST_KEPT = 12;

/** The same time is the same object in every range: where it is drawn already, it is not drawn anew. */
function timesOf(event: EventShape, range: Range, zone: string, instead: ReadonlySet<string>): readonly Shown[] {
  const key = `${range.from} ${range.to} ${zone} ${[...instead].join()}`;
  let own = kept.get(event);
  if (!own || own.ranges.size > MOST_KEPT) kept.set(event, (own = { ranges: new Map(), times: new Map() }));
  const { ranges, times } = own;
  let list = ranges.get(key);
  if (!list) {
    list = occurrences(event, range, zone, instead, budget()).list.map((one) => {
      const known = times.get(one.at);
      if (known?.start === one.start && known.end === one.end) return known;
      const shown = { ...one, event, key: `${event.id} ${one.at}` };
      times.set(one.at, shown);
      return shown;
    });
    ranges.set(key, list);
  }
  return list;
}

/** Everything of some events in a range, in order; what was looked at before is not looked at again. */
export function shownIn(events: readonly EventShape[], range: Range, zone: string): readonly Shown[] {
  const elsewhere = elsewhereIn(events);
  return events
    .flatMap((event) => timesOf(event, range, zone, elsewhere(event)))
    .sort((a, b) => a.start - b.start || b.end - a.end || a.event.id - b.event.id);
}

/** Whether something is shown above the hours: whole days, and what lasts as long. */
export const isWhole = ({ event, start, end }: Shown): boolean => isDay(event.start) || end - start >= DAY_MS;

/** What of it is on a day, by its clock: minutes from midnight. */
export function onDay({ start, end }: Pick<Shown, "start" | "end">, day: Day, zone: string) {
  const midnight = readWall(day);
  const from = (wallAt(zone, start) - midnight) / 60_000;
  const to = (wallAt(zone, end) - midnight) / 60_000;
  return { from: Math.max(0, from), to: Math.min(24 * 60, Math.max(to, from)) };
}

/** Whether something touches a day. */
export const isOn = ({ start, end }: Shown, { from, to }: Range): boolean =>
  start < to && (end > from || (start === end && start >= from));
