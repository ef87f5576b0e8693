/**
 * How long messages wait until they are decided, counted in steps that grow with the time: a step is a constant share
 * of it, so that minutes and months are told with the same care, and what is added up can be taken away again.
 */
const STEPS_A_DOUBLING = 8;
const MINUTE_MS = 60_000;
/** Nearly three years, and more. */
const LAST_STEP = 165;

/** The step of a time in milliseconds: 0 for less than a minute. */
export function stepOf(ms: number): number {
  const minutes = ms / MINUTE_MS;
  if (!(minutes >= 1)) return 0;
  return Math.min(LAST_STEP, 1 + Math.floor(Math.log2(minutes) * STEPS_A_DOUBLING + 1e-9));
}

/** From when a step is meant, in milliseconds; up to where the next one begins. */
export const startOf = (step: number): number => (step <= 0 ? 0 : MINUTE_MS * 2 ** ((step - 1) / STEPS_A_DOUBLING));

/** How often each step was met. */
export type Waits = ReadonlyMap<number, number>;

/** All of some waits together; with a factor of -1 they are taken away. What is met no more is dropped. */
export function addWaits(a: Waits, b: Waits, factor: 1 | -1 = 1): Waits {
  const out = new Map(a);
  for (const [step, count] of b) {
    const sum = (out.get(step) ?? 0) + factor * count;
    if (sum === 0) out.delete(step);
    else out.set(step, sum);
  }
  return out;
}

/**
 * The time within which a share of them was decided, in milliseconds; null where there are none. Off by less than one
 * step, 9 % of it: within a step they are taken to be spread evenly.
 * @param share 0.5 for the median
 */
export function waitWithin(waits: Waits, share: number): number | null {
  const steps = [...waits].filter(([, count]) => count > 0).sort(([a], [b]) => a - b);
  const total = steps.reduce((sum, [, count]) => sum + count, 0);
  if (total === 0) return null;
  const wanted = Math.min(1, Math.max(0, share)) * total;
  let before = 0;
  for (const [step, count] of steps) {
    if (before + count >= wanted) {
      const start = startOf(step);
      return start + ((wanted - before) / count) * (startOf(step + 1) - start);
    }
    before += count;
  }
  return startOf(steps.at(-1)![0] + 1);
}
