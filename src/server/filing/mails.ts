import type { FilingMail } from "@/core/filing";
import { folderId, messageId, type MessageId, type PersonId } from "@/core/id";
import type { Queryable } from "../db";
import { listOf, ownAddresses } from "../store";

/** Messages as filing sees them. */

interface Row {
  id: number;
  from_address: string;
  recipients: { address: string }[];
  cc: { address: string }[];
  via: string;
  list: string;
  subject: string;
  attachments: string[];
  date_ms: number;
}

/** Of a text the first words tell most. */
const MOST_WORDS = 60;

/** @returns those that there are; a message whose words are not indexed yet has none */
export async function readFilingMails(
  sql: Queryable,
  person: PersonId,
  ids: readonly number[],
): Promise<Map<MessageId, FilingMail>> {
  const list = listOf(ids);
  // Three questions at once are answered sooner than one that takes the database as long to think about as all of them.
  const [rows, worded, threaded, own] = await Promise.all([
    sql<Row[]>`
      select m.id, m.from_address, m.recipients, m.cc, m.via, m.list, m.subject, m.attachments,
        (extract(epoch from m.date) * 1000)::float8 as date_ms
      from unnest(${list}::text::bigint[]) as i(id) join message m on m.person = ${person} and m.id = i.id`,
    sql<{ id: number; words: string[] | null }[]>`
      select i.id, w.words from unnest(${list}::text::bigint[]) as i(id)
        cross join lateral (
          select array_agg(first.lexeme) as words from (
            select l.lexeme from message_words x, unnest(ts_filter(x.words, '{d}')) as l
            where x.person = ${person} and x.message = i.id order by l.positions[1] limit ${MOST_WORDS}) first) w`,
    sql<{ id: number; folders: number[] }[]>`
      select m.id, array_agg(distinct s.folder) as folders
      from unnest(${list}::text::bigint[]) as i(id)
        join message m on m.person = ${person} and m.id = i.id
        join message e on e.person = m.person and e.thread = m.thread and e.date < m.date
        join message_state s on s.person = e.person and s.message = e.id
        join folder f on f.person = s.person and f.id = s.folder and f.role is null
      group by m.id`,
    ownAddresses(sql, person),
  ]);
  const wordsOf = new Map(worded.map(({ id, words }) => [id, words ?? []]));
  const threadOf = new Map(threaded.map(({ id, folders }) => [id, folders.map(folderId)]));
  return new Map(
    rows.map((row): [MessageId, FilingMail] => [
      messageId(row.id),
      {
        from: row.from_address,
        to: [...row.recipients, ...row.cc].map(({ address }) => address).filter((one) => !own.has(one.toLowerCase())),
        via: row.via.split(/[\s,]+/).filter(Boolean),
        list: row.list,
        subject: row.subject,
        words: wordsOf.get(row.id) ?? [],
        files: row.attachments,
        thread: threadOf.get(row.id) ?? [],
        dateMs: row.date_ms,
      },
    ]),
  );
}
