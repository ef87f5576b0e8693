import journal from "./migrations/meta/_journal.json";
import type { Database } from "./client";

/** Milliseconds since 1970; migrations are told apart by when they were made. */
const NEWEST = Math.max(...journal.entries.map(({ when }) => when));

/**
 * Why the database cannot be worked with by this version of the program; null where it can. One that is newer can: what
 * a newer version has added an older one does not ask for.
 * @throws where the database does not answer
 */
export async function readiness({ sql }: Database): Promise<string | null> {
  const [row] = await sql<{ last: number | null }[]>`
    select max(created_at)::float8 as last from drizzle.__drizzle_migrations`;
  return (row?.last ?? 0) >= NEWEST ? null : "the database is of an older version: npm start -- migrate";
}
