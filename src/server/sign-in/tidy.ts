import type { Database } from "../db";

/** Attempts from so long ago say nothing any more. */
const ATTEMPTS_DAYS = 1;

/** Lets go of sessions, links and attempts that are over. */
export async function endOld({ sql }: Database): Promise<void> {
  await sql`delete from session where ends_at < now()`;
  await sql`delete from token where ends_at < now()`;
  await sql`delete from once_link where ends_at < now()`;
  await sql`delete from challenge where ends_at < now()`;
  await sql`delete from sign_in_attempt where at < now() - make_interval(days => ${ATTEMPTS_DAYS})`;
}
