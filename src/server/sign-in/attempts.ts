import { createHash } from "node:crypto";
import type { Database } from "../db";

/**
 * Guessing is made slow: after some attempts that were wrong each further one has to wait, twice as long each time,
 * up to a quarter of an hour. An attempt is counted before it is looked at, so that many at once are many; one that
 * was right is forgotten. Accounts that do not exist are counted in the same way as those that do. Times are of the
 * moment, not of the transaction: those that come at once wait for each other.
 */

/** So many attempts are free, by what is counted. */
const FREE = { account: 5, codes: 5, from: 60 } as const;
const FIRST_WAIT_S = 5;
const LONGEST_WAIT_S = 900;
/** Nothing to wait for: so long ago that a column of milliseconds, which rounds, cannot say otherwise. */
const NO_WAIT_S = -1;
/** Attempts from before so long are forgotten. */
const FORGOTTEN_S = 3600;

export interface Attempt {
  readonly kind: keyof typeof FREE;
  /** The account as it was typed, the person whose codes are tried, or the address of the network it comes from. */
  readonly name: string;
}

const keyOf = ({ kind, name }: Attempt): string =>
  `${kind} ${createHash("sha256").update(name.trim().toLowerCase()).digest("base64url")}`;

/**
 * Counts an attempt by all that is known of it.
 * @returns seconds that have to be waited, without an attempt being counted; 0 to go on
 */
export async function attempt({ sql }: Database, tried: readonly Attempt[]): Promise<number> {
  return sql.begin(async (tx) => {
    let wait = 0;
    for (const one of tried) {
      const what = keyOf(one);
      const [row] = await tx<{ count: number; wait: number }[]>`
        insert into sign_in_attempt as a (what, count, at, until) values (${what}, 0, clock_timestamp(), clock_timestamp() + make_interval(secs => ${NO_WAIT_S}))
        on conflict (what) do update set count = case when a.at < clock_timestamp() - make_interval(secs => ${FORGOTTEN_S}) then 0 else a.count end
        returning count, extract(epoch from until - clock_timestamp())::float8 as wait`;
      wait = Math.max(wait, row!.wait);
      if (wait > 0) break;
      const over = row!.count + 1 - FREE[one.kind];
      const next = over < 0 ? NO_WAIT_S : Math.min(LONGEST_WAIT_S, FIRST_WAIT_S * 2 ** Math.min(over, 20));
      await tx`update sign_in_attempt set count = count + 1, at = clock_timestamp(), until = clock_timestamp() + make_interval(secs => ${next})
        where what = ${what}`;
    }
    return Math.ceil(wait);
  });
}

/** It was right: nothing is held against anybody. */
export async function forget({ sql }: Database, tried: Attempt): Promise<void> {
  await sql`delete from sign_in_attempt where what = ${keyOf(tried)}`;
}
