/**
 * What waited on any day, by how long it had: from when messages came and when they were decided. Days are counted
 * since 1970-01-01 by the person's clock; a day's backlog is what was open at its end.
 */
export type Day = number;

/** So many messages that came on one day and were decided on another; null while they are open. */
export interface Stays {
  readonly came: Day;
  readonly left: Day | null;
  readonly count: number;
}

/** Ages in days from which the layers of a backlog begin: of today, of this week, of this month, older, much older. */
export const AGES = [0, 1, 7, 30, 90] as const;

export interface Backlog {
  readonly day: Day;
  readonly total: number;
  /** How many of each age, the youngest first. */
  readonly layers: readonly number[];
}

/**
 * The backlog of each day of a span. A stay adds to one layer after another as it ages, so each is noted only where it
 * begins and ends: the cost is that of the stays and of the days, not of their product.
 * @param from the first day @param to the last one
 * @param ages in days, rising, from 0
 */
export function backlogs(
  stays: Iterable<Stays>,
  from: Day,
  to: Day,
  ages: readonly number[] = AGES,
): readonly Backlog[] {
  const days = Math.max(0, to - from + 1);
  const steps = ages.map(() => new Float64Array(days + 1));
  for (const { came, left, count } of stays)
    ages.forEach((age, layer) => {
      const begins = Math.max(from, came + age);
      const ends = Math.min(to + 1, left ?? Infinity, came + (ages[layer + 1] ?? Infinity));
      if (begins >= ends) return;
      steps[layer]![begins - from]! += count;
      steps[layer]![ends - from]! -= count;
    });
  const layers = ages.map(() => 0);
  return Array.from({ length: days }, (_, i) => {
    steps.forEach((step, layer) => (layers[layer]! += step[i]!));
    return { day: from + i, total: layers.reduce((sum, n) => sum + n, 0), layers: [...layers] };
  });
}
