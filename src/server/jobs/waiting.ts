import type { Database } from "../db";

/** What waits to be done, over everybody: counts, by what it is. */
export async function readWaiting({ sql }: Database): Promise<Record<string, number>> {
  const [row] = await sql<{ letters: number; imports: number; accounts: number }[]>`
    select (select count(*)::int from held where state in ('waiting', 'later', 'sending') and at <= now()) as letters,
      (select count(*)::int from job where state in ('queued', 'running')) as imports,
      (select count(*)::int from account where trouble is not null and not is_paused) as accounts`;
  return { ...row! };
}
