import type { FolderId, MessageId, PersonId } from "@/core/id";
import { domainOf, guessFrom } from "@/core/filing";
import type { Facts } from "@/core/macro";
import { textOf } from "@/core/mail";
import { TRAIT } from "@/core/narrow";
import type { Queryable } from "../db";
import { listOf } from "../store";

interface Row {
  id: number;
  from_name: string;
  from_address: string;
  subject: string;
  list: string;
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

/** Sources read and parsed at a time, so that a run over thousands holds few of them at once. */
const BODIES_AT_ONCE = 200;

async function readBodies(sql: Queryable, person: PersonId, ids: readonly MessageId[]): Promise<Map<number, string>> {
  const bodies = new Map<number, string>();
  for (let at = 0; at < ids.length; at += BODIES_AT_ONCE) {
    const rows = await sql<{ id: number; raw: Uint8Array }[]>`
      select m.id, c.raw from message m join content c on c.person = m.person and c.id = m.content
      where m.person = ${person} and m.id = any(${listOf(ids.slice(at, at + BODIES_AT_ONCE))}::text::bigint[])`;
    for (const { id, raw } of rows) bodies.set(id, await textOf(raw));
  }
  return bodies;
}

/** What the messages say about themselves, for conditions and values taken from them. */
export async function readFacts(
  sql: Queryable,
  person: PersonId,
  ids: readonly MessageId[],
  withBody: boolean,
): Promise<Map<MessageId, Facts>> {
  const rows = await sql<Row[]>`
    select id, from_name, from_address, subject, list, (extract(epoch from date) * 1000)::float8 as date_ms, size, traits,
      from_key, to_key, subject_key, list_key, cc_key, via_key, file_key
    from message where person = ${person} and id = any(${listOf(ids)}::text::bigint[])`;
  const bodies = withBody ? await readBodies(sql, person, ids) : null;
  return new Map(
    rows.map((row) => {
      const facts: Facts = {
        fromName: row.from_name,
        fromAddress: row.from_address,
        subject: row.subject,
        list: row.list,
        dateMs: row.date_ms,
        size: row.size,
        traits: row.traits,
        text: (field) => row[`${field}_key`],
        body: bodies ? (bodies.get(row.id) ?? "") : null,
      };
      return [row.id as MessageId, facts];
    }),
  );
}

/** The folder guess, from where mail of these senders and their domains is now. */
export async function readGuess(
  sql: Queryable,
  person: PersonId,
  facts: Iterable<Facts>,
): Promise<(facts: Facts) => FolderId | null> {
  const domains = [...new Set([...facts].map((f) => domainOf(f.fromAddress)))];
  const rows = await sql<{ address: string; folder: FolderId; messages: number }[]>`
    select lower(m.from_address) as address, s.folder, count(*)::int as messages
    from message m join message_state s on s.person = m.person and s.message = m.id
      join folder f on f.person = m.person and f.id = s.folder and f.role is null
    where m.person = ${person} and m.traits & ${TRAIT.mine} = 0
      and lower(split_part(m.from_address, '@', -1)) = any(${domains}::text[])
    group by 1, 2`;
  const guess = guessFrom(rows);
  return (f) => guess(f.fromAddress);
}
