import type { Database } from "../db";
import {
  accountsToAsk,
  GatewayAway,
  gatewayOf,
  moveMark,
  noteTrouble,
  noteWell,
  type Account,
  type Pulled,
} from "../gateway";
import { inTurn } from "../run";
import type { ParsePool } from "../parse";
import { intoOf, takeIn } from "./take-in";

/** Takes in what the services behind people's accounts have for them. */

/**
 * A piece of mail and the mark behind it, in one transaction: whatever happens, nothing comes in twice or not at all.
 * @returns how many were added; null where another process was first
 */
async function takePiece(
  db: Database,
  account: Account,
  from: number,
  piece: readonly Pulled[],
  pool: ParsePool,
  now: Date,
): Promise<number | null> {
  const parsed = await pool.parse(
    piece.map(({ raw }) => raw),
    now,
  );
  return inTurn(db, account.person, async (tx, seq) => {
    if (!(await moveMark(tx, account, from, piece.at(-1)!.mark))) return null;
    const into = await intoOf(tx, account.person, null, account.id, true);
    const { added } = await takeIn(
      tx,
      seq,
      into,
      parsed.map((item, i) => ({ ...item, raw: piece[i]!.raw })),
    );
    return added;
  });
}

async function takeFrom(db: Database, account: Account, pool: ParsePool, now: Date): Promise<number> {
  let count = 0;
  let mark = account.mark;
  for await (const piece of gatewayOf(db.sql, account).pull(mark)) {
    const added = await takePiece(db, account, mark, piece, pool, now);
    if (added === null) return count;
    count += added;
    mark = piece.at(-1)!.mark;
  }
  await noteWell(db.sql, account);
  return count;
}

/**
 * Takes in all new mail of every account.
 * @param start makes the threads that parse, once there is something to be parsed
 * @returns how many messages were added
 */
export async function takeMail(db: Database, start: () => ParsePool, now: Date): Promise<number> {
  const accounts = await accountsToAsk(db.sql, now);
  if (accounts.length === 0) return 0;
  const pool = start();
  let count = 0;
  try {
    for (const account of accounts)
      try {
        count += await takeFrom(db, account, pool, now);
      } catch (error) {
        // One service that cannot be asked keeps no other from being asked.
        if (!(error instanceof GatewayAway)) throw error;
        await noteTrouble(db.sql, account, error.message, now);
      }
  } finally {
    await pool.close();
  }
  return count;
}
