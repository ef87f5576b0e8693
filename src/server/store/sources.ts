import { messageId, type MessageId, type PersonId } from "@/core/id";
import { TRAIT } from "@/core/narrow";
import { PREPARED, type Transaction } from "../db";
import type { Hashes } from "./hashes";
import { listOf } from "./list";
import { MESSAGE_COLUMNS, messageRecord, type MessageColumn } from "./message-columns";
import { insertContents, readColumns, reserve, storableJson, type NewMessage } from "./new-messages";

/** A source that has come from a server, read. */
export interface Brought extends Hashes, Pick<NewMessage, "raw" | "parsed" | "keys"> {
  /** What stood for it here. */
  readonly content: number;
}

/** Where a message is in time, in its thread and through which account it came, is known by its headers. */
const STAYS: ReadonlySet<MessageColumn> = new Set(["content", "thread", "account", "date", "traits"]);
const READ_AGAIN = (Object.keys(MESSAGE_COLUMNS) as MessageColumn[])
  .filter((name) => !STAYS.has(name))
  .map((name) => `${name} = r.${name}`)
  .join(", ");

const hex = (bytes: Uint8Array): string => Buffer.from(bytes).toString("hex");

/**
 * Sources under the hashes by which they are here: what differs in nothing but how its lines end is the same, here as
 * among these. What is not here keeps its own.
 */
export async function asKnown<T extends Hashes>(tx: Transaction, person: PersonId, items: readonly T[]): Promise<T[]> {
  if (items.every(({ alike }) => alike.length === 0)) return [...items];
  const all = [...new Set(items.flatMap(({ hash, alike }) => [hash, ...alike].map(hex)))];
  const rows = await tx<{ hash: string }[]>`
    select encode(hash, 'hex') as hash from content
    where person = ${person} and hash in (select decode(h, 'hex') from unnest(${all}::text[]) h)`;
  const known = new Map(rows.map(({ hash }) => [hash, hash]));
  return items.map((item) => {
    const own = [item.hash, ...item.alike].map(hex);
    const here = own.map((hash) => known.get(hash)).find((hash) => hash !== undefined) ?? own[0]!;
    for (const hash of own) if (!known.has(hash)) known.set(hash, here);
    return here === own[0] ? item : { ...item, hash: Buffer.from(here, "hex") };
  });
}

/** Says of messages how large they are where they are found again by that: on a server. */
export const noteSizes = (
  tx: Transaction,
  person: PersonId,
  sizes: readonly { readonly message: MessageId; readonly size: number }[],
) =>
  tx`
    update message m set size = w.size
    from jsonb_to_recordset(${JSON.stringify(sizes)}::text::jsonb) as w(message bigint, size int)
    where m.person = ${person} and m.id = w.message and m.size <> w.size`;

/** Which source each is of: one that is here already, or a new one. */
async function targetsOf(tx: Transaction, person: PersonId, brought: readonly Brought[]): Promise<number[]> {
  const hashes = brought.map(({ hash }) => hex(hash));
  const rows = await tx<{ id: number; hash: string }[]>`
    select id, encode(hash, 'hex') as hash from content
    where person = ${person} and hash in (select decode(h, 'hex') from unnest(${hashes}::text[]) h)`;
  const known = new Map(rows.map(({ id, hash }) => [hash, id]));
  const fresh = brought.filter(({ hash }, i) => !known.has(hex(hash)) && hashes.indexOf(hex(hash)) === i);
  const ids = await reserve(tx, "content", fresh.length);
  fresh.forEach(({ hash }, i) => known.set(hex(hash), ids[i]!));
  if (fresh.length > 0)
    await insertContents(
      tx,
      person,
      fresh.map(({ hash, raw }, i) => ({ content: ids[i]!, hash, raw })),
    );
  return hashes.map((hash) => known.get(hash)!);
}

/**
 * Gives messages of which only the headers were here their sources, and everything that is read of these. Call it in
 * the person's turn, and tell windows of the messages. What has come twice, or was deleted meanwhile, is left out.
 * @returns the messages of each, copies too, by what stood for the source
 */
export async function bringSources(
  tx: Transaction,
  person: PersonId,
  own: ReadonlySet<string>,
  brought: readonly Brought[],
): Promise<ReadonlyMap<number, readonly MessageId[]>> {
  const asked = listOf(brought.map(({ content }) => content));
  const waiting = await tx<{ content: number }[]>`
    delete from coming c using unnest(${asked}::text::bigint[]) as w(content)
    where c.person = ${person} and c.content = w.content returning c.content`;
  const open = new Set(waiting.map(({ content }) => content));
  const taken = await asKnown(
    tx,
    person,
    brought.filter(({ content }) => open.has(content)),
  );
  if (taken.length === 0) return new Map();
  const targets = await targetsOf(tx, person, taken);
  const json = storableJson(
    taken.map(({ content, ...read }, i) => ({ of: content, content: targets[i], ...readColumns(read, own) })),
  );
  const rows = await tx.unsafe<{ id: number; of: number }[]>(
    `update message m set content = r.content, traits = r.traits | (m.traits & ${TRAIT.answered}), ${READ_AGAIN}
     from jsonb_to_recordset($2::text::jsonb) as r(of bigint, ${messageRecord()})
     where m.person = $1 and m.content = r.of returning m.id, r.of`,
    [person, json],
    PREPARED,
  );
  await tx`
    delete from content c using unnest(${listOf([...open])}::text::bigint[]) as w(id)
    where c.person = ${person} and c.id = w.id`;
  const out = new Map<number, MessageId[]>();
  for (const { id, of } of rows) out.set(of, [...(out.get(of) ?? []), messageId(id)]);
  return out;
}
