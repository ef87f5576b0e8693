import { readFileSync } from "node:fs";
import { join } from "node:path";
import { drizzle } from "drizzle-orm/postgres-js";
import { migrate } from "drizzle-orm/postgres-js/migrator";
import postgres, { type Sql } from "postgres";
import { WEB_ROLE } from "./walled";

/** The database was written by a newer Tachyne, which this one might damage. */
export class NewerDatabase extends Error {
  override readonly name = "NewerDatabase";
  constructor() {
    super("The database was last used by a newer version of Tachyne. Update the program, or use another database.");
  }
}

/** The database has no role for requests, and this program may not make it. */
export class NoWebRole extends Error {
  override readonly name = "NoWebRole";
  constructor(owner: string) {
    super(
      `The database needs a role that requests come as, and ${owner} may not make it. Let a superuser of the database run: create role ${WEB_ROLE} nologin; grant ${WEB_ROLE} to "${owner}";`,
    );
  }
}

const MAY_NOT = "42501";
/** Somebody else has made it at the same moment, for a database of theirs. */
const THERE_ALREADY = new Set(["42710", "23505"]);

/** The role of requests is the whole server's, so that it may be there already. @throws NoWebRole */
async function ensureWebRole(sql: Sql): Promise<void> {
  const asked = () =>
    sql<{ owner: string; has: boolean; isMember: boolean }[]>`
      select current_user as owner, r.oid is not null as has, coalesce(pg_has_role(r.oid, 'member'), false) as "isMember"
      from (select) nothing left join pg_roles r on r.rolname = ${WEB_ROLE}`;
  const [row] = await asked();
  if (row!.isMember) return;
  try {
    if (!row!.has)
      await sql.unsafe(`create role ${WEB_ROLE} nologin`).catch((error: { code?: string }) => {
        if (!THERE_ALREADY.has(error.code ?? "")) throw error;
      });
    if (!(await asked())[0]!.isMember) await sql.unsafe(`grant ${WEB_ROLE} to current_user`);
  } catch (error) {
    if ((error as { code?: string }).code === MAY_NOT) throw new NoWebRole(row!.owner);
    throw error;
  }
}

/** Requests may read and write what is there, as far as the walls let them; words only through their view. */
const GRANTS = `
  grant usage on schema public, wall, drizzle to ${WEB_ROLE};
  grant select on drizzle.__drizzle_migrations to ${WEB_ROLE};
  grant select, insert, update, delete on all tables in schema public, wall to ${WEB_ROLE};
  grant usage, select on all sequences in schema public to ${WEB_ROLE};
  revoke all on public.message_words from ${WEB_ROLE}`;

/** Any number all processes agree on; holds while one of them migrates. */
const MIGRATION_LOCK = 7_224_019;

/**
 * Brings the database to this version.
 * @param folder where the numbered migrations are
 * @throws NewerDatabase, NoWebRole
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
    await ensureWebRole(sql);
    await migrate(drizzle(sql), { migrationsFolder: folder });
    await sql.unsafe(GRANTS);
  } finally {
    await sql.end();
  }
}
