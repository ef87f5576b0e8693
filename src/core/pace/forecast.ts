/** How long a backlog will take, told from past days, and no surer than these allow. */

/** So much of a normal spread lies under 1.2816 deviations on either side: four of five. */
const DEVIATIONS = 1.2816;
/** A week, so that no weekday is left out. */
export const LEAST_DAYS = 7;

/** Whole days; null for never. */
export interface Range {
  readonly soonest: number | null;
  readonly likely: number | null;
  readonly latest: number | null;
}

export interface Forecast {
  /** Decisions less arrivals a day, on average. */
  readonly gain: number;
  /** Days until nothing is left, at the pace of the past days: four times of five within the range. */
  readonly empty: Range;
}

interface Spread {
  readonly mean: number;
  readonly deviation: number;
}

function spreadOf(values: readonly number[]): Spread {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const squares = values.reduce((sum, value) => sum + (value - mean) ** 2, 0);
  return { mean, deviation: Math.sqrt(squares / Math.max(1, values.length - 1)) };
}

/**
 * When what is gained in t days, `mean` × t and `luck` × √t beside it, is as much as there is to gain: deviations of
 * days that do not hang together grow with the root of their number.
 */
function daysUntil(backlog: number, mean: number, luck: number): number | null {
  if (backlog <= 0) return 0;
  // mean × t + luck × √t = backlog, solved for √t: the first time it is reached.
  const root = luck * luck + 4 * mean * backlog;
  if (root < 0) return null;
  if (mean === 0) return luck > 0 ? Math.ceil((backlog / luck) ** 2 - 1e-9) : null;
  const times = [(-luck + Math.sqrt(root)) / (2 * mean), (-luck - Math.sqrt(root)) / (2 * mean)].filter((x) => x > 0);
  return times.length === 0 ? null : Math.ceil(Math.min(...times) ** 2 - 1e-9);
}

/**
 * @param arrivals of each past day, and decisions of the same days
 * @param backlog what is open now
 * @returns null where too few days have passed to tell anything
 */
export function forecast(arrivals: readonly number[], decisions: readonly number[], backlog: number): Forecast | null {
  if (arrivals.length !== decisions.length) throw new RangeError("arrivals and decisions are of other days");
  if (arrivals.length < LEAST_DAYS) return null;
  const { mean, deviation } = spreadOf(decisions.map((count, i) => count - arrivals[i]!));
  const luck = DEVIATIONS * deviation;
  return {
    gain: mean,
    empty: {
      soonest: daysUntil(backlog, mean, luck),
      likely: daysUntil(backlog, mean, 0),
      latest: daysUntil(backlog, mean, -luck),
    },
  };
}

/** Decisions a day; what is likely to be enough, and what four times of five is. */
export interface Needed {
  readonly likely: number;
  readonly atMost: number;
}

/**
 * The pace that empties a backlog in some days, with what comes meanwhile.
 * @param days from now on, 1 or more @returns null where too few days have passed to tell
 */
export function paceNeeded(arrivals: readonly number[], backlog: number, days: number): Needed | null {
  if (arrivals.length < LEAST_DAYS || !(days >= 1)) return null;
  const { mean, deviation } = spreadOf(arrivals);
  const likely = Math.max(0, (backlog + mean * days) / days);
  return { likely, atMost: likely + (DEVIATIONS * deviation) / Math.sqrt(days) };
}
