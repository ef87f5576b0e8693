import type { PendingQuery, Row as AnyRow } from "postgres";
import type { Order, Place } from "@/core/api";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Test } from "@/core/narrow";
import type { Queryable } from "../db";
import { asksOfState, conditionOf, type SearchContext, type WordsTest } from "./sql";
import { countWith, isIndexed, searchContext, wordsIn } from "./words";

type Fragment = PendingQuery<AnyRow[]>;

const beyond = (sql: Queryable, order: Order, after: Place | null) => {
  if (!after) return sql``;
  const at = sql`(to_timestamp(${after.dateMs}::float8 / 1000), ${after.id}::bigint)`;
  return order === "oldest" ? sql`and (m.date, m.id) > ${at}` : sql`and (m.date, m.id) < ${at}`;
};

const inOrder = (sql: Queryable, order: Order) =>
  order === "oldest" ? sql`order by m.date, m.id` : sql`order by m.date desc, m.id desc`;

/** What rows are joined from: a message and what is on it. */
export const messageJoin = (sql: Queryable, person: PersonId) => sql`
  message m join message_state s on s.person = m.person and s.message = m.id where m.person = ${person}`;

type Listed = readonly (Place & { id: MessageId })[];

interface Page {
  readonly order: Order;
  readonly limit: number | null;
  readonly after: Place | null;
}

interface Row {
  readonly id: number;
  readonly ms: number;
  /** Whether the words of all messages are indexed. */
  readonly whole: boolean;
}

/** @param from where rows come from: a message m and its state s, up to a condition */
function rowsOf(sql: Queryable, context: SearchContext, test: Test, page: Page, from: Fragment) {
  const { order, limit, after } = page;
  return sql<Row[]>`
    select m.id, (extract(epoch from m.date) * 1000)::float8 as ms, ${isIndexed(sql, context.person)} as whole from ${from}
    and ${conditionOf(sql, context, test)} ${beyond(sql, order, after)} ${inOrder(sql, order)}
    ${limit === null ? sql`` : sql`limit ${limit}`}`;
}

const listed = (rows: readonly Row[]): Listed =>
  rows.map((row) => ({ id: messageId(row.id), dateMs: Math.round(row.ms) }));

/** For messages that are met one after another: each is looked at by itself, as if all of them were indexed. */
const walking = (person: PersonId): SearchContext => ({ person, indexed: true, found: null });

/** The words that every message has to hold, and what else it has to meet. */
function partsOf(test: Test): { readonly words: readonly WordsTest[]; readonly rest: readonly Test[] } {
  const parts = test.kind === "and" ? test.parts : [test];
  return {
    words: parts.filter((part) => part.kind === "words"),
    rest: parts.filter((part) => part.kind !== "words"),
  };
}

/** So many messages a row that is wanted are walked through before words are looked up in their index. */
const WALKED = 15;
/** And so many to see whether it is worth it. */
const PROBED = 3;
const MOST_WALKED = 3000;

/**
 * Words that many messages hold are met soon by who walks through the mail in its order, where looking all of them up
 * would take far longer. null where a page is not full by then: the words are rarer.
 */
async function walked(sql: Queryable, person: PersonId, test: Test, page: Page): Promise<Listed | null> {
  const { order, limit, after } = page;
  if (limit === null || limit * WALKED > MOST_WALKED) return null;
  const { words, rest } = partsOf(test);
  const context = walking(person);
  for (const length of [limit * PROBED, limit * WALKED]) {
    // Words first: "offset 0" keeps the planner from looking at the state of messages that do not hold them.
    const from = sql`(
        select m.* from (
          select m.* from message m where m.person = ${person} ${beyond(sql, order, after)}
          ${inOrder(sql, order)} limit ${length}) m
        where ${conditionOf(sql, context, { kind: "and", parts: words })} offset 0) m
      join message_state s on s.person = m.person and s.message = m.id where m.person = ${person}`;
    const rows = await rowsOf(sql, context, { kind: "and", parts: rest }, page, from);
    // Messages that are not indexed yet are looked at in another way.
    if (rows.length === limit) return rows[0]!.whole ? listed(rows) : null;
    if (rows.length * WALKED < limit * PROBED) return null;
  }
  return null;
}

/** The matching messages, a page from a place on, by keyset: a page far down costs what the first does. */
export async function pageOfIds(
  sql: Queryable,
  person: PersonId,
  test: Test,
  order: Order,
  limit: number | null,
  after: Place | null = null,
): Promise<Listed> {
  const page = { order, limit, after };
  const soon = wordsIn(test).length > 0 ? await walked(sql, person, test, page) : null;
  if (soon) return soon;
  const context = await searchContext(sql, person, test);
  return listed(await rowsOf(sql, context, test, page, sql`${messageJoin(sql, person)}`));
}

/** How many match, exactly. */
export async function countMatches(sql: Queryable, person: PersonId, test: Test): Promise<number> {
  const { words, rest } = partsOf(test);
  if (words.length === 1 && rest.every(asksOfState)) {
    // What is asked of their state alone needs nothing of the messages themselves.
    const beside = rest.length > 0 ? conditionOf(sql, walking(person), { kind: "and", parts: rest }) : null;
    const count = await countWith(sql, person, words[0]!, beside);
    if (count !== null) return count;
  }
  const context = await searchContext(sql, person, test);
  const [row] = await sql<{ n: number }[]>`
    select count(*)::int as n from ${messageJoin(sql, person)} and ${conditionOf(sql, context, test)}`;
  return row?.n ?? 0;
}
