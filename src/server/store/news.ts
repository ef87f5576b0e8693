import type { PersonId } from "@/core/id";
import type { Connection, Queryable, Transaction } from "../db";

/** What every process hears of what was written, for the windows that it shows it to. */

/** The channel on which it is told, as "person seq" of a ledger row or "person news". */
export const CHANNEL = "tachyne";

export type News = "settings" | "words" | "ledger" | "outgoing" | "accounts" | "filing" | "sessions";

/** What is to be told of transactions that are not committed yet. */
const untold = new WeakMap<Queryable, string[]>();

/**
 * Does work in a transaction, and tells of it once it is committed. Told in between, everybody's commits at that moment
 * would wait for each other: PostgreSQL holds one lock for all notices from there until the commit is on the disk.
 * Where the process ends right behind the commit nothing is told; windows look now and then by themselves.
 */
export async function toldAfterwards<T>(db: Connection, work: (tx: Transaction) => Promise<T>): Promise<T> {
  const news: string[] = [];
  const done = (await db.begin((sql) => {
    const tx = sql as Transaction;
    untold.set(tx, news);
    return work(tx);
  })) as T;
  if (news.length > 0)
    db`select pg_notify(${CHANNEL}, n) from unnest(${[...new Set(news)]}::text[]) as n`.catch(() => undefined);
  return done;
}

async function notify(sql: Queryable, payload: string): Promise<void> {
  const later = untold.get(sql);
  if (later) later.push(payload);
  else await sql`select pg_notify(${CHANNEL}, ${payload})`;
}

/** Tells every window of a new row of the ledger. */
export const tellOfEntry = (tx: Transaction, person: PersonId, seq: number): Promise<void> =>
  notify(tx, `${person} ${seq}`);

/**
 * Tells every window what is not what it was: settings (folders, labels, markers, macros, decks, batches), the
 * index of words, what has become of runs, what is on its way, how mail servers are, what filing has taught, or where the person is signed in.
 */
export const tell = (sql: Queryable, person: PersonId, what: News): Promise<void> => notify(sql, `${person} ${what}`);
