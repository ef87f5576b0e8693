import type { Deed } from "./progress";

const WINDOW_MS = 600_000;
const MINUTE_MS = 60_000;

/** Messages decided a minute; null before anything can be said. */
export type Pace = number | null;

/**
 * The pace of the last ten minutes, or of the time since the pass was begun or gone on with, where that is shorter.
 * A message that was decided again counts once, when it was last.
 * @param since when it was begun or gone on with, milliseconds since 1970
 */
export function paceOf(deeds: Iterable<Deed>, since: number, now: number): Pace {
  const from = Math.max(since, now - WINDOW_MS);
  const recent = new Set<number>();
  for (const { message, at } of deeds) if (at > from && at <= now) recent.add(message);
  // Of one decision alone nobody can tell how fast the next will be.
  if (recent.size < 2 || now <= from) return null;
  return (recent.size * MINUTE_MS) / (now - from);
}

/** How many minutes are left at a pace, rounded up; null where there is none to tell by. */
export const minutesLeft = (left: number, pace: Pace): number | null =>
  pace === null || pace <= 0 ? null : Math.ceil(left / pace);
