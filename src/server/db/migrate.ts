import { readFileSync } from "node:fs";
import { join } from "node:path";
import { drizzle } from "drizzle-orm/postgres-js";
import { migrate } from "drizzle-orm/postgres-js/migrator";
import postgres from "postgres";

/** The database was written by a newer Tachyne, which this one might damage. */
export class NewerDatabase extends Error {
  override readonly name = "NewerDatabase";
  constructor() {
    super("The database was last used by a newer version of Tachyne. Update the program, or use another database.");
  }
}

/** Any number all processes agree on; holds while one of them migrates. */
const MIGRATION_LOCK = 7_224_019;

/**
 * Brings the database to this version.
 * @param folder where the numbered migrations are
 * @throws NewerDatabase
 */
export async function migrateDatabase(url: string, folder: string): Promise<void> {
  const sql = postgres(url, { max: 1, onnotice: () => {} });
  try {
    await sql`select pg_advisory_lock(${MIGRATION_LOCK})`;
    const journal = JSON.parse(readFileSync(join(folder, "meta", "_journal.json"), "utf8")) as {
      entries: { when: number }[];
    };
    const newest = Math.max(0, ...journal.entries.map((entry) => entry.when));
    const [table] = await sql`select to_regclass('drizzle.__drizzle_migrations') as name`;
    if (table?.name) {
      const [row] = await sql`select max(created_at)::float8 as last from drizzle.__drizzle_migrations`;
      if (Number(row?.last ?? 0) > newest) throw new NewerDatabase();
    }
    await migrate(drizzle(sql), { migrationsFolder: folder });
  } finally {
    await sql.end();
  }
}
