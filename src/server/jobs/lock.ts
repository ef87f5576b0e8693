import type { Database } from "../db";

/** Errors that say the database is away, not that the work is bad: SQLSTATE classes 08 and 57P, and the driver's own. */
export const isAway = (error: unknown): boolean => {
  const code = String((error as { code?: unknown }).code ?? "");
  return /^(08|57P|CONNECTION_|CONNECT_TIMEOUT|ECONN|EPIPE)/.test(code);
};

/**
 * Does something while holding an advisory lock, if no other process holds it. The lock belongs to a
 * connection, so that it is free the moment its holder dies, and another goes on.
 * @param kind first half of the two-part key
 * @param id second half
 * @returns what came of it; null when another process is at it
 */
export async function underLock<T>(db: Database, kind: number, id: number, work: () => Promise<T>): Promise<T | null> {
  const held = await db.sql.reserve();
  const free = () => held`select pg_advisory_unlock(${kind}::int, ${id}::int)`;
  try {
    const [row] = await held<{ got: boolean }[]>`select pg_try_advisory_lock(${kind}::int, ${id}::int) as got`;
    if (!row?.got) return null;
    const result = await work().catch(async (error: unknown) => {
      // A connection that is gone has taken its lock along, and its driver fails on being asked again.
      if (!isAway(error)) await free();
      throw error;
    });
    await free();
    return result;
  } finally {
    held.release();
  }
}
