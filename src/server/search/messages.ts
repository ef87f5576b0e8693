import type { Order, Place } from "@/core/api";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Test } from "@/core/narrow";
import type { Queryable } from "../db";
import { conditionOf } from "./sql";
import { countWith, searchContext } from "./words";

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

/** The matching messages, a page from a place on, by keyset: a page far down costs what the first does. */
export async function pageOfIds(
  sql: Queryable,
  person: PersonId,
  test: Test,
  order: Order,
  limit: number | null,
  after: Place | null = null,
): Promise<(Place & { id: MessageId })[]> {
  const context = await searchContext(sql, person, test);
  const rows = await sql<{ id: number; ms: number }[]>`
    select m.id, (extract(epoch from m.date) * 1000)::float8 as ms from ${messageJoin(sql, person)}
    and ${conditionOf(sql, context, test)} ${beyond(sql, order, after)} ${inOrder(sql, order)}
    ${limit === null ? sql`` : sql`limit ${limit}`}`;
  return rows.map((row) => ({ id: messageId(row.id), dateMs: Math.round(row.ms) }));
}

/** How many match, exactly. */
export async function countMatches(sql: Queryable, person: PersonId, test: Test): Promise<number> {
  const words = test.kind === "words" ? await countWith(sql, person, test) : null;
  if (words !== null) return words;
  const context = await searchContext(sql, person, test);
  const [row] = await sql<{ n: number }[]>`
    select count(*)::int as n from ${messageJoin(sql, person)} and ${conditionOf(sql, context, test)}`;
  return row?.n ?? 0;
}
