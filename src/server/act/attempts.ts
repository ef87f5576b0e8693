import type { Database } from "../db";
import { Refusal } from "../run";
import { attempt, forget, type Attempt } from "../sign-in";

/**
 * Does what may be tried so often only, and forgets the attempt where it was right.
 * @param tried by what it is counted, what is forgotten first
 * @throws Refusal (429) with how long to wait, and whatever the work throws
 */
export async function counted<T>(
  db: Database,
  tried: readonly [Attempt, ...Attempt[]],
  work: () => Promise<T>,
): Promise<T> {
  const wait = await attempt(db, tried);
  if (wait > 0)
    throw new Refusal(429, "Too many attempts", `Wait ${wait} seconds, then try again. Nothing was tried meanwhile.`, {
      after: wait,
    });
  const done = await work();
  await forget(db, tried[0]);
  return done;
}
