import type { MessageId, PersonId } from "@/core/id";
import type { Facts } from "@/core/macro";
import { isComing, textOf } from "@/core/mail";
import type { Queryable } from "../db";
import { partsOf } from "../parse";
import { listOf, wantSources } from "../store";

interface Row {
  id: number;
  from_name: string;
  from_address: string;
  subject: string;
  list: string;
  account: number;
  date_ms: number;
  size: number;
  traits: number;
  from_key: string;
  to_key: string;
  subject_key: string;
  cc_key: string;
  via_key: string;
  file_key: string;
  list_key: string;
}

/** The words of messages, which only their sources hold; null for those whose sources have not come. */
export type Bodies = ReadonlyMap<MessageId, string | null>;

/** Sources read and parsed at a time, so that a run over thousands holds few of them at once. */
const BODIES_AT_ONCE = 200;

/**
 * Reads and parses sources: work for before a turn, since sources never change and parsing takes its time. Those that
 * are on a server still are asked for before others.
 */
export async function readBodies(sql: Queryable, person: PersonId, ids: readonly MessageId[]): Promise<Bodies> {
  const bodies = new Map<MessageId, string | null>();
  const coming: MessageId[] = [];
  for (let at = 0; at < ids.length; at += BODIES_AT_ONCE) {
    const rows = await sql<{ id: MessageId; raw: Uint8Array; flaws: string[] }[]>`
      select m.id, c.raw, m.flaws from message m join content c on c.person = m.person and c.id = m.content
      where m.person = ${person} and m.id = any(${listOf(ids.slice(at, at + BODIES_AT_ONCE))}::text::bigint[])`;
    for (const { id, raw, flaws } of rows)
      if (isComing(flaws)) {
        bodies.set(id, null);
        coming.push(id);
      } else bodies.set(id, textOf((await partsOf(raw, flaws)).email));
  }
  if (coming.length > 0) await wantSources(sql, person, coming);
  return bodies;
}

/**
 * When the open tasks that were made from messages are due, milliseconds since 1970, NaN for no date.
 * @param of some messages; all where nothing is said
 */
export async function openTasks(
  sql: Queryable,
  person: PersonId,
  of?: readonly MessageId[],
): Promise<Map<MessageId, number[]>> {
  const rows = await sql<{ message: MessageId; due_ms: number | null }[]>`
    select message, (extract(epoch from due) * 1000)::float8 as due_ms from task
    where person = ${person} and message is not null and not done
      ${of ? sql`and message = any(${listOf(of)}::text::bigint[])` : sql``}`;
  const out = new Map<MessageId, number[]>();
  for (const { message, due_ms } of rows) out.set(message, [...(out.get(message) ?? []), due_ms ?? NaN]);
  return out;
}

/**
 * What the messages say about themselves, for conditions and values taken from them. Joined, since a table that was
 * just filled is not known to the planner yet: it would look through the list for each of its rows.
 * @param bodies null where not needed
 */
export async function readFacts(
  sql: Queryable,
  person: PersonId,
  ids: readonly MessageId[],
  bodies: Bodies | null,
): Promise<Map<MessageId, Facts>> {
  const rows = await sql<Row[]>`
    select m.id, from_name, from_address, subject, list, account, (extract(epoch from date) * 1000)::float8 as date_ms, size, traits,
      from_key, to_key, subject_key, list_key, cc_key, via_key, file_key
    from unnest(${listOf(ids)}::text::bigint[]) as wanted(id) join message m on m.person = ${person} and m.id = wanted.id`;
  const tasks = await openTasks(sql, person, ids);
  // Messages that came to be meant since the bodies were read; mostly there are none.
  const late = bodies ? rows.map((row) => row.id as MessageId).filter((id) => !bodies.has(id)) : [];
  const more = late.length > 0 ? await readBodies(sql, person, late) : null;
  return new Map(
    rows.map((row) => {
      const id = row.id as MessageId;
      const facts: Facts = {
        fromName: row.from_name,
        fromAddress: row.from_address,
        subject: row.subject,
        list: row.list,
        account: row.account,
        dateMs: row.date_ms,
        size: row.size,
        traits: row.traits,
        text: (field) => row[`${field}_key`],
        tasks: tasks.get(id) ?? [],
        body: bodies?.get(id) ?? more?.get(id) ?? null,
      };
      return [id, facts];
    }),
  );
}
