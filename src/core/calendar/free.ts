import { addDays, weekdayOf, type Week } from "../when";
import type { Occurrence, Range } from "./expand";
import { DAY_MS, instantAt, wallAt } from "./wall";

/** A stretch of time, instants in ms. */
export type Span = Pick<Occurrence, "start" | "end">;

/** What spans cover together, in order, those that touch or overlap as one; what has no length covers nothing. */
export function joined(spans: readonly Span[]): Span[] {
  const out: Span[] = [];
  for (const span of [...spans].sort((a, b) => a.start - b.start)) {
    if (span.end <= span.start) continue;
    const last = out.at(-1);
    if (last && span.start <= last.end) out[out.length - 1] = { start: last.start, end: Math.max(last.end, span.end) };
    else out.push({ start: span.start, end: span.end });
  }
  return out;
}

/** What is left of spans without others. */
export function without(spans: readonly Span[], taken: readonly Span[]): Span[] {
  const gone = joined(taken);
  const out: Span[] = [];
  let at = 0;
  for (const { start, end } of joined(spans)) {
    let from = start;
    while (at < gone.length && gone[at]!.end <= from) at++;
    for (let i = at; i < gone.length && gone[i]!.start < end; i++) {
      if (gone[i]!.start > from) out.push({ start: from, end: gone[i]!.start });
      from = Math.max(from, gone[i]!.end);
    }
    if (from < end) out.push({ start: from, end });
  }
  return out;
}

const MINUTE_MS = 60_000;

/** The hours of a week that lie in a range, as clocks of a zone show them. */
export function hoursIn(week: Week, { from, to }: Range, zone: string): Span[] {
  const out: Span[] = [];
  const first = new Date(wallAt(zone, from) - DAY_MS);
  let day = {
    year: first.getUTCFullYear(),
    month: first.getUTCMonth() + 1,
    day: first.getUTCDate(),
    hour: 0,
    minute: 0,
  };
  for (;;) {
    const midnight = Date.UTC(day.year, day.month - 1, day.day);
    if (instantAt(zone, midnight) >= to) return joined(out);
    for (const stretch of week)
      if (stretch.day === weekdayOf(day))
        out.push({
          start: Math.max(from, instantAt(zone, midnight + stretch.from * MINUTE_MS)),
          end: Math.min(to, instantAt(zone, midnight + stretch.to * MINUTE_MS)),
        });
    day = addDays(day, 1);
  }
}

/** Things begin and end at such minutes. */
export const GRAIN_MS = 5 * MINUTE_MS;

/** Stretches of hours that nothing is in, within whole grains; shorter ones are no use. */
export function freeIn(
  week: Week,
  range: Range,
  zone: string,
  busy: readonly Span[],
  shortest = GRAIN_MS,
): readonly Span[] {
  return without(hoursIn(week, range, zone), busy)
    .map(({ start, end }) => ({
      start: Math.ceil(start / GRAIN_MS) * GRAIN_MS,
      end: Math.floor(end / GRAIN_MS) * GRAIN_MS,
    }))
    .filter(({ start, end }) => end - start >= shortest);
}

/** The first stretch that holds so many ms and is over by then; null where there is none. */
export function firstFree(free: readonly Span[], length: number, by: number = Infinity): Span | null {
  const found = free.find(({ start, end }) => Math.min(end, by) - start >= length);
  return found ? { start: found.start, end: found.start + length } : null;
}

/**
 * Times to offer somebody: the first that is free on each of the next days, at full quarters of an hour.
 * @param length ms @param count how many days
 */
export function offers(free: readonly Span[], length: number, count: number, zone: string): readonly Span[] {
  const out: Span[] = [];
  const days = new Set<number>();
  const quarter = 15 * MINUTE_MS;
  for (const { start, end } of free) {
    const at = Math.ceil(start / quarter) * quarter;
    const day = Math.floor(wallAt(zone, at) / DAY_MS);
    if (out.length === count || at + length > end || days.has(day)) continue;
    days.add(day);
    out.push({ start: at, end: at + length });
  }
  return out;
}
