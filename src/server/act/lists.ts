import type { z } from "zod";
import type { listPatch, listShape } from "@/core/api";
import { changeOfMessages, listedKey, type ThingEdit } from "@/core/change";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import { inTurn } from "../run";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";

/** Lists of senders that rules are for. They grow by a macro's step, and are changed by hand here. */

export async function readList({ db, person }: Context, list: string): Promise<z.infer<typeof listShape>> {
  const rows = await db.sql<{ address: string }[]>`
    select address from listed where person = ${person} and list = ${list.toLowerCase()} order by address`;
  return { addresses: rows.map(({ address }) => address) };
}

/** Adds and takes out senders, as part of a transaction. Who is on it already stays so. */
export async function writeList(
  tx: Transaction,
  context: Context,
  seq: number,
  list: string,
  { add, remove }: z.infer<typeof listPatch>,
): Promise<void> {
  const rows = await tx<{ address: string }[]>`
    select address from listed where person = ${context.person} and list = ${list.toLowerCase()}`;
  const there = new Set(rows.map(({ address }) => address));
  const lower = (some: readonly string[]) => [...new Set(some.map((address) => address.toLowerCase()))];
  const [added, gone] = [
    lower(add).filter((address) => !there.has(address)),
    lower(remove).filter((address) => there.has(address)),
  ];
  const edit = (address: string, after: true | null): ThingEdit => ({
    kind: "listed",
    key: listedKey(list, address),
    about: null,
    before: after === null ? true : null,
    after,
  });
  const wanted = [...added.map((address) => edit(address, true)), ...gone.map((address) => edit(address, null))];
  const some = [...added, ...gone];
  await writeByHand(tx, context, seq, changeOfMessages([], wanted), {
    name: `${list}: ${some.length === 1 ? some[0]! : plural(some.length, "sender")}`,
    about: cut(some.join(", "), 200),
    messages: 0,
  });
}

/** Adds and takes out senders: an entry of the ledger, taken back like a run. */
export async function changeList(
  context: Context,
  list: string,
  patch: z.infer<typeof listPatch>,
): Promise<z.infer<typeof listShape>> {
  const { db, person } = context;
  await inTurn(db, person, (tx, seq) => writeList(tx, context, seq, list, patch));
  return readList(context, list);
}
