import { messageId, personId, type MessageId, type PersonId } from "@/core/id";
import { PREPARED, type Queryable, type Transaction } from "../db";
import { listOf } from "../store";
import type { Test } from "@/core/narrow";
import type { PendingQuery, Row } from "postgres";
import type { SearchContext, WordsTest } from "./sql";
import { queryOf } from "./vector";

export interface WordIndex {
  /** Messages up to this id are in it. */
  readonly through: number;
  /** How many are not yet, or with their headers alone. */
  readonly left: number;
}

/** How far the index of words has come: searches say so while it is behind. */
export async function wordsThrough(sql: Queryable, person: PersonId): Promise<WordIndex> {
  const [row] = await sql<{ through: number; left: number }[]>`
    with i as (select coalesce(max(through), 0) as through from word_index where person = ${person})
    select i.through, (select count(*)::int from message m where m.person = ${person} and m.id > i.through)
      + (select count(*)::int from coming where person = ${person} and account <> 0) as left from i`;
  return row ?? { through: 0, left: 0 };
}

/** Every search for words in it. */
export function wordsIn(test: Test): WordsTest[] {
  if (test.kind === "words") return [test];
  if (test.kind === "and" || test.kind === "or") return test.parts.flatMap(wordsIn);
  return test.kind === "not" ? wordsIn(test.part) : [];
}

/** Words that more messages hold than this are left for the database to look for as it goes along. */
const MOST_FOUND = 20_000;

/** Whether the words of all messages are indexed, as an expression. */
export const isIndexed = (sql: Queryable, person: PersonId): PendingQuery<Row[]> => sql`(
  coalesce((select max(id) from message where person = ${person}), 0)
    <= coalesce((select through from word_index where person = ${person}), 0))`;

/**
 * What a condition is made with. Words are looked for beforehand: of a search for words the
 * planner only guesses how many it finds, and walks the whole mailbox for a word that three messages hold.
 */
export async function searchContext(sql: Queryable, person: PersonId, test: Test): Promise<SearchContext> {
  const found = new Map<WordsTest, readonly number[] | null>();
  const tests = wordsIn(test);
  if (tests.length === 0) return { person, indexed: false, found };
  const [row] = await sql<{ whole: boolean }[]>`select ${isIndexed(sql, person)} as whole`;
  for (const words of tests) {
    const rows = await sql<{ message: number }[]>`
      with w as materialized (select message from message_words where person = ${person}
        and words @@ ${queryOf(words.needle, words.where === "body")}::tsquery)
      select message from w limit ${MOST_FOUND + 1}`;
    found.set(words, rows.length > MOST_FOUND ? null : rows.map(({ message }) => message));
  }
  return { person, indexed: row?.whole === true, found };
}

/**
 * How many messages hold the words of a test, and meet what is asked of their state beside; null while the index of
 * words does not reach all that would have to be in it.
 * @param beside a condition over message_state s; null for none
 */
export async function countWith(
  sql: Queryable,
  person: PersonId,
  { needle, where }: WordsTest,
  beside: PendingQuery<Row[]> | null,
): Promise<number | null> {
  const body = where === "body";
  const joined = beside
    ? sql`join message_state s on s.person = w.person and s.message = w.message and ${beside}`
    : sql``;
  const [row] = await sql<{ n: number; whole: boolean }[]>`
    select count(*)::int as n, ${body} or ${isIndexed(sql, person)} as whole
    from message_words w ${joined} where w.person = ${person} and w.words @@ ${queryOf(needle, body)}::tsquery`;
  return row?.whole ? row.n : null;
}

/** Which messages hold the needle in their own words. */
export async function messagesWith(sql: Queryable, person: PersonId, needle: string): Promise<MessageId[]> {
  const rows = await sql<{ message: number }[]>`
    select message from message_words where person = ${person} and words @@ ${queryOf(needle, true)}::tsquery`;
  return rows.map((row) => messageId(row.message));
}

/** Everybody who has messages whose words are not indexed yet. */
export async function peopleUnindexed(sql: Queryable): Promise<PersonId[]> {
  const rows = await sql<{ id: number }[]>`
    select p.id from person p left join word_index i on i.person = p.id
    where exists (select from message m where m.person = p.id and m.id > coalesce(i.through, 0)) order by p.id`;
  return rows.map(({ id }) => personId(id));
}

/** The next messages whose words are to be indexed, oldest first, with their sources. */
export const unindexed = (sql: Queryable, person: PersonId, limit: number) =>
  sql<{ id: number; content: number; raw: Uint8Array; flaws: string[] }[]>`
    select m.id, m.content, c.raw, m.flaws from message m join content c on c.person = m.person and c.id = m.content
    where m.person = ${person} and m.id > coalesce((select through from word_index where person = ${person}), 0)
    order by m.id limit ${limit}`;

export interface Indexed {
  readonly id: number;
  /** Of which source the words are. */
  readonly content: number;
  readonly vector: string;
  readonly ccKey: string;
  readonly fileKey: string;
  readonly via: string;
  readonly viaKey: string;
}

/**
 * Writes the words of messages, and what messages of older versions lack in their headers; moves the mark. The
 * messages' rows are held while their words are written: one that is deleted meanwhile takes them along. A letter that
 * was given another source since its words were read is not passed by: it is left for the next time, with those after.
 * @param read oldest first
 */
export async function writeWords(tx: Transaction, person: PersonId, read: readonly Indexed[]): Promise<void> {
  const held = await tx<{ id: number; same: boolean }[]>`
    select m.id, m.content = r.content as same
    from unnest(${listOf(read.map(({ id }) => id))}::text::bigint[],
      ${listOf(read.map(({ content }) => content))}::text::bigint[]) as r(id, content)
      join message m on m.person = ${person} and m.id = r.id
    order by m.id for share of m`;
  const changed = held.find(({ same }) => !same)?.id ?? Infinity;
  const items = read.filter(({ id }) => id < changed);
  const last = items.at(-1);
  if (!last) return;
  const there = new Set(held.map(({ id }) => id));
  const found = items.filter(({ id }) => there.has(id));
  await putWords(
    tx,
    person,
    found.map(({ id, vector }) => [messageId(id), vector]),
  );
  await tx.unsafe(
    `update message m set cc_key = w.cc, file_key = w.file, via = w.via, via_key = w.via_key
     from jsonb_to_recordset($2::text::jsonb) as w(id bigint, cc text, file text, via text, via_key text)
     where m.person = $1 and m.id = w.id
       and (m.cc_key, m.file_key, m.via, m.via_key) is distinct from (w.cc, w.file, w.via, w.via_key)`,
    [
      person,
      JSON.stringify(
        items.map(({ id, ccKey, fileKey, via, viaKey }) => ({ id, cc: ccKey, file: fileKey, via, via_key: viaKey })),
      ),
    ],
    PREPARED,
  );
  await tx`
    insert into word_index (person, through) values (${person}, ${last.id})
    on conflict (person) do update set through = greatest(word_index.through, excluded.through)`;
}

/** Writes words of messages that the index may have been past already. */
export async function putWords(
  tx: Transaction,
  person: PersonId,
  words: readonly (readonly [MessageId, string])[],
): Promise<void> {
  await tx`
    insert into message_words (person, message, words)
    select ${person}, w.id, w.vector::tsvector
    from unnest(${listOf(words.map(([id]) => id))}::text::bigint[], ${words.map(([, vector]) => vector)}::text[]) as w(id, vector)
    on conflict (person, message) do update set words = excluded.words`;
}

/** Gives a message that the index has been past already its words anew. */
export async function rewriteWords(tx: Transaction, person: PersonId, message: number, vector: string): Promise<void> {
  await tx`
    update message_words set words = ${vector}::tsvector where person = ${person} and message = ${message}`;
}
