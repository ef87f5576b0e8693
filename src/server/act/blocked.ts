import type { z } from "zod";
import type { BlockedShape, blockRequest, newBlocked } from "@/core/api";
import { changeOf } from "@/core/change";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import { inTurn, notFound } from "../run";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** Senders, and domains, whose mail comes in as junk. Macros block them one by one; here are all of them. */

export const listBlocked = ({ db, person }: Context): Promise<BlockedShape[]> =>
  db.sql<BlockedShape[]>`select address from blocked where person = ${person} order by address`;

const write = (tx: Transaction, context: Context, seq: number, addresses: readonly string[], blocked: true | null) =>
  writeByHand(
    tx,
    context,
    seq,
    changeOf(
      [],
      addresses.map((key) => ({ kind: "blocked", key, about: null, before: blocked ? null : true, after: blocked })),
    ),
    {
      name: `${blocked ? "Block" : "Unblock"} ${addresses.length === 1 ? addresses[0]! : plural(addresses.length, "sender")}`,
      about: cut(addresses.join(", "), 200),
      messages: 0,
    },
  );

/** Blocks a sender; one that is blocked already stays so. */
export async function blockSender(
  context: Context,
  { address: written }: z.infer<typeof newBlocked>,
): Promise<BlockedShape> {
  const address = written.toLowerCase();
  await inTurn(context.db, context.person, (tx, seq) => write(tx, context, seq, [address], true));
  return { address };
}

/** Blocks several at once, as one entry; those that are blocked already are no part of it. */
export async function blockSenders(context: Context, { addresses }: z.infer<typeof blockRequest>): Promise<void> {
  const { db, person } = context;
  const asked = [...new Set(addresses.map((address) => address.toLowerCase()))];
  await inTurn(db, person, async (tx, seq) => {
    const rows = await tx<{ address: string }[]>`
      select a as address from unnest(${asked}::text[]) a
      where not exists (select from blocked b where b.person = ${person} and b.address = a)`;
    await write(
      tx,
      context,
      seq,
      rows.map(({ address }) => address),
      true,
    );
  });
}

/** Lets a sender's mail come into the inbox again; what went to junk stays there. */
export async function unblockSender(context: Context, written: string): Promise<void> {
  const address = written.toLowerCase();
  await inTurn(context.db, context.person, async (tx, seq) => {
    const [row] = await tx`select 1 from blocked where person = ${context.person} and address = ${address}`;
    if (!row) throw notFound("blocked sender", written);
    await write(tx, context, seq, [address], null);
  });
}
