import { Fading } from "./counts";

/**
 * How often guesses were right, by how likely they seemed: what seems 80 % likely and was right in 71 of 100 is said
 * to be 71 %. Neighbours whose order is turned around are put together, so that what seems likelier is never said to
 * be less so (pool adjacent violators; Ayer et al. 1955). Guesses get better as more is learned: old ones fade.
 */

const BINS = 25;
/** Before anything is known a guess is as sure as it seems; that counts as so many guesses. */
const PRIOR = 2;
const FADING = new Fading(2);

/** Most guesses seem near to certain: bins are finer there. */
const scaleOf = (probability: number): number => 1 - Math.sqrt(1 - Math.max(0, Math.min(1, probability)));
const middleOf = (bin: number): number => 1 - (1 - (bin + 0.5) / BINS) ** 2;

interface Month {
  readonly hits: number[];
  readonly all: number[];
}
export type StoredReliability = readonly (readonly [month: number, counts: Month])[];
const none = (): number[] => new Array<number>(BINS).fill(0);

export class Reliability {
  private readonly months = new Map<number, Month>();
  private curve: { readonly now: number; readonly values: readonly number[] } | null = null;

  static binOf(probability: number): number {
    return Math.min(BINS - 1, Math.floor(scaleOf(probability) * BINS));
  }

  /** @param by 1 for a guess that was made, -1 for one that is taken back */
  add(bin: number, hit: boolean, month: number, by: 1 | -1): void {
    let counts = this.months.get(month);
    if (!counts) this.months.set(month, (counts = { hits: none(), all: none() }));
    counts.all[bin]! += by;
    if (hit) counts.hits[bin]! += by;
    if ([...counts.all, ...counts.hits].every((count) => count === 0)) this.months.delete(month);
    this.curve = null;
  }

  /** How often guesses that seemed so likely were right, seen from a month. */
  of(probability: number, now: number): number {
    if (this.curve?.now !== now) this.curve = { now, values: this.monotone(now) };
    return this.curve.values[Reliability.binOf(probability)]!;
  }

  private monotone(now: number): number[] {
    const pools: { sum: number; weight: number; bins: number }[] = [];
    for (let bin = 0; bin < BINS; bin++) {
      let [sum, weight] = [PRIOR * middleOf(bin), PRIOR];
      for (const [month, { hits, all }] of this.months) {
        const share = FADING.of(now - month);
        sum += share * hits[bin]!;
        weight += share * all[bin]!;
      }
      pools.push({ sum, weight, bins: 1 });
      for (;;) {
        const [last, before] = [pools.at(-1)!, pools.at(-2)];
        if (!before || before.sum / before.weight <= last.sum / last.weight) break;
        const joined = {
          sum: before.sum + last.sum,
          weight: before.weight + last.weight,
          bins: before.bins + last.bins,
        };
        pools.splice(-2, 2, joined);
      }
    }
    return pools.flatMap(({ sum, weight, bins }) => new Array<number>(bins).fill(sum / weight));
  }

  /** @param stored what toJSON gave; kept as its own */
  static from(stored: StoredReliability): Reliability {
    const reliability = new Reliability();
    for (const [month, counts] of stored) reliability.months.set(month, counts);
    return reliability;
  }

  toJSON(): StoredReliability {
    return [...this.months].sort(([a], [b]) => a - b);
  }
}
