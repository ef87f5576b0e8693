import type { z } from "zod";
import type { BlockedShape, newBlocked } from "@/core/api";
import { changeOf } from "@/core/change";
import type { Transaction } from "../db";
import { inTurn, notFound } from "../run";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** Senders whose mail comes in as junk. Macros block them one by one; here are all of them. */

export const listBlocked = ({ db, person }: Context): Promise<BlockedShape[]> =>
  db.sql<BlockedShape[]>`select address from blocked where person = ${person} order by address`;

const write = (tx: Transaction, context: Context, seq: number, address: string, blocked: true | null) =>
  writeByHand(
    tx,
    context,
    seq,
    changeOf([], [{ kind: "blocked", key: address, about: null, before: blocked ? null : true, after: blocked }]),
    { name: `${blocked ? "Block" : "Unblock"} ${address}`, about: address, messages: 0 },
  );

/** Blocks a sender; one that is blocked already stays so. */
export async function blockSender(
  context: Context,
  { address: written }: z.infer<typeof newBlocked>,
): Promise<BlockedShape> {
  const address = written.toLowerCase();
  await inTurn(context.db, context.person, (tx, seq) => write(tx, context, seq, address, true));
  return { address };
}

/** Lets a sender's mail come into the inbox again; what went to junk stays there. */
export async function unblockSender(context: Context, written: string): Promise<void> {
  const address = written.toLowerCase();
  await inTurn(context.db, context.person, async (tx, seq) => {
    const [row] = await tx`select 1 from blocked where person = ${context.person} and address = ${address}`;
    if (!row) throw notFound("blocked sender", written);
    await write(tx, context, seq, address, null);
  });
}
