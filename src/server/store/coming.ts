import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";

/**
 * Sources that are on a server still. What stands for one here is its message's headers. Lists are joined, since a table
 * that was just filled is not known to the planner yet: it would look through the list for each of its rows.
 */

export interface Coming {
  readonly content: number;
  readonly mailbox: number;
  readonly uid: number;
  /** Bytes. */
  readonly size: number;
  readonly messageId: string | null;
  /** Whether somebody waits for it. */
  readonly isWanted: boolean;
}

/** Notes that sources are to come. */
export async function noteComing(
  tx: Transaction,
  person: PersonId,
  coming: readonly { readonly content: number; readonly account: number; readonly date: Date }[],
): Promise<void> {
  if (coming.length === 0) return;
  await tx`
    insert into coming (person, content, account, date)
    select ${person}, content, account, date
    from jsonb_to_recordset(${JSON.stringify(coming)}::text::jsonb) as c(content bigint, account int, date timestamptz)`;
}

/** The next sources that a server is to be asked for: what somebody waits for, then the newest. */
export const nextComing = (sql: Queryable, person: PersonId, account: number, limit: number, now: Date) =>
  sql<Coming[]>`
    select c.content, p.mailbox, p.uid, m.size, m.message_id as "messageId", c.wanted_at is not null as "isWanted"
    from coming c
      join message m on m.person = c.person and m.content = c.content
      join placement p on p.person = m.person and p.message = m.id and p.account = ${account} and p.uid is not null
    where c.person = ${person} and c.account = ${account} and c.retry_at <= ${now.toISOString()}::timestamptz
    order by c.wanted_at desc nulls last, c.date desc nulls last limit ${limit}`;

/**
 * Sources that are here by their headers alone, told by their Message-IDs and sizes on the wire.
 * @returns for each what stands for it; undefined for others
 */
export async function awaited(
  sql: Queryable,
  person: PersonId,
  sources: readonly { readonly messageId: string | null; readonly size: number }[],
): Promise<(number | undefined)[]> {
  const ids = sources.flatMap(({ messageId: id }) => id ?? []);
  const rows = await sql<{ content: number; id: string; size: number }[]>`
    select c.content, m.message_id as id, m.size
    from coming c join message m on m.person = c.person and m.content = c.content
    where c.person = ${person} and m.message_id = any(${ids}::text[]) order by m.id desc`;
  const key = (id: string | null, size: number) => `${id ?? ""}\n${size}`;
  const waiting = new Map(rows.map(({ id, size, content }) => [key(id, size), content]));
  return sources.map(({ messageId: id, size }) => (id === null ? undefined : waiting.get(key(id, size))));
}

/** How many sources may still come from an account's server. */
export async function countComing(sql: Queryable, person: PersonId, account: number): Promise<number> {
  const [row] = await sql<{ count: number }[]>`
    select count(*)::int as count from coming where person = ${person} and account = ${account}`;
  return row!.count;
}

/** Whether somebody waits for a source that an account's server has. */
export async function isWaitedFor(sql: Queryable, person: PersonId, account: number): Promise<boolean> {
  const [row] = await sql<{ is: boolean }[]>`
    select exists (select from coming where person = ${person} and account = ${account} and wanted_at is not null) as is`;
  return row!.is;
}

/** Somebody wants to read messages: their sources come before all others, if they are not here. */
export const wantSources = (sql: Queryable, person: PersonId, messages: readonly MessageId[]) =>
  sql`
    update coming c set wanted_at = now(), retry_at = least(retry_at, now())
    from unnest(${listOf(messages)}::text::bigint[]) as w(id) join message m on m.person = ${person} and m.id = w.id
    where c.person = m.person and c.content = m.content`;

/** The server did not give sources: it is asked for them again later, and for all others before. */
export const postponeComing = (sql: Queryable, person: PersonId, contents: readonly number[], until: Date) =>
  sql`
    update coming c set wanted_at = null, retry_at = ${until.toISOString()}::timestamptz
    from unnest(${listOf(contents)}::text::bigint[]) as w(content)
    where c.person = ${person} and c.content = w.content`;

/** Of what is on no server any more nothing comes. */
export const endComing = (sql: Queryable, person: PersonId) =>
  sql`
    update coming c set account = 0 where c.person = ${person} and c.account <> 0
      and not exists (select from message m join placement p on p.person = m.person and p.message = m.id
        where m.person = c.person and m.content = c.content)`;

/** Messages are on a server again. */
export const resumeComing = (sql: Queryable, person: PersonId, account: number, messages: readonly MessageId[]) =>
  sql`
    update coming c set account = ${account}, retry_at = now()
    from unnest(${listOf(messages)}::text::bigint[]) as w(id) join message m on m.person = ${person} and m.id = w.id
    where c.person = m.person and c.content = m.content`;

/** Those of some messages whose sources may still come. */
export async function stillComing(
  sql: Queryable,
  person: PersonId,
  messages: readonly MessageId[],
): Promise<MessageId[]> {
  const rows = await sql<{ id: number }[]>`
    select m.id from unnest(${listOf(messages)}::text::bigint[]) as w(id)
      join message m on m.person = ${person} and m.id = w.id
      join coming c on c.person = m.person and c.content = m.content and c.account <> 0`;
  return rows.map(({ id }) => messageId(id));
}
