import { columnsOf, encodeIndex, type ColumnRow } from "@/core/columns";
import { load } from "@/core/change";
import type { Test } from "@/core/narrow";
import { writePlace, type Place } from "@/core/api";
import { conditionOf, messageJoin, searchContext } from "../search";
import { currentSeq, entriesAfter, firstSeq, listOf } from "../store";
import { Refusal, type Context } from "./context";

/** How many rows one request may bring. */
export const MOST_INDEX_ROWS = 100_000;

type Row = Record<"id" | "thread" | "date_ms" | "size" | "folder" | "bits" | "traits" | "marker", number> & {
  labels: number[];
} & Record<"start_ms" | "due_ms" | "defer_ms" | "await_ms", number | null> &
  Record<"from_name" | "from_address" | "to_key" | "cc_key" | "via" | "subject" | "preview" | "list", string> & {
    attachments: string[];
    note: string | null;
    flag_note: string | null;
  };

const rowOf = (row: Row): ColumnRow => ({
  id: row.id,
  thread: row.thread,
  dateMs: row.date_ms,
  size: row.size,
  folder: row.folder,
  bits: row.bits,
  traits: row.traits,
  marker: row.marker,
  labels: row.labels,
  startMs: row.start_ms ?? NaN,
  dueMs: row.due_ms ?? NaN,
  deferMs: row.defer_ms ?? NaN,
  awaitMs: row.await_ms ?? NaN,
  fromName: row.from_name,
  fromAddress: row.from_address,
  to: row.to_key.trim(),
  cc: row.cc_key.trim(),
  via: row.via,
  file: row.attachments.join(" ").slice(0, 4000),
  subject: row.subject,
  preview: row.preview,
  list: row.list,
  note: row.note ?? "",
  flagNote: row.flag_note ?? "",
});

/**
 * A part of the mailbox's index as columns, ordered by date and id. Parts come newest first, so that what a
 * person looks at is there before the rest.
 * @param which messages by narrowing, by id, or all of them
 */
export async function readIndex(
  { db, person }: Context,
  which: { readonly test: Test } | { readonly ids: readonly number[] },
  limit: number,
  before: Place | null,
): Promise<Uint8Array> {
  const { sql } = db;
  const seq = await currentSeq(sql, person);
  const context = "ids" in which ? null : await searchContext(sql, person, which.test);
  const condition =
    "ids" in which ? sql`m.id = any(${listOf(which.ids)}::text::bigint[])` : conditionOf(sql, context!, which.test);
  const ms = (column: string) => sql`(extract(epoch from ${sql(column)}) * 1000)::float8`;
  const rows = await sql<Row[]>`
    select m.id, m.thread, ${ms("m.date")} as date_ms, m.size, s.folder, s.bits, m.traits, s.marker, s.labels,
      ${ms("s.flag_start")} as start_ms, ${ms("s.flag_due")} as due_ms, ${ms("s.defer_until")} as defer_ms,
      ${ms("s.await_until")} as await_ms, m.from_name, m.from_address, m.to_key, m.cc_key, m.via, m.attachments, m.subject, m.preview, m.list,
      s.note, s.flag_note
    from ${messageJoin(sql, person)} and ${condition}
      ${before ? sql`and (m.date, m.id) < (to_timestamp(${before.dateMs}::float8 / 1000), ${before.id}::bigint)` : sql``}
    order by m.date desc, m.id desc limit ${limit}`;
  const ordered = rows.map(rowOf).reverse();
  const first = ordered[0];
  const next = rows.length === limit && first ? writePlace({ dateMs: first.dateMs, id: first.id }) : null;
  const wanted = "ids" in which ? new Set(which.ids) : new Set<number>();
  for (const row of ordered) wanted.delete(row.id);
  return encodeIndex({ seq, next, gone: [...wanted], columns: columnsOf(ordered) });
}

/** Entries looked through at a time, and the most messages worth bringing one by one. */
const ENTRIES_AT_ONCE = 200;
const MOST_CHANGED = 50_000;

/**
 * What has changed since a write: the rows of all messages that were touched, as they are now.
 * @throws Refusal (409) where that is not known any more, or is so much that the whole index costs less
 */
export async function readIndexSince(context: Context, since: number): Promise<Uint8Array> {
  const { sql } = context.db;
  const [first, last] = await Promise.all([firstSeq(sql, context.person), currentSeq(sql, context.person)]);
  const anew = new Refusal(409, "Read it anew", "What changed since then is not known any more, or too much.");
  if (since > last || (since < last && (first === null || first > since + 1))) throw anew;
  const ids = new Set<number>();
  for (let seen = since, more = since < last; more;) {
    const entries = await entriesAfter(sql, context.person, seen, ENTRIES_AT_ONCE);
    for (const { entry, change } of entries) {
      seen = entry.seq;
      const touched = entry.kind === "arrival" ? (change as { arrived: number[] }).arrived : load(change).keys();
      for (const id of touched) ids.add(id);
      if (ids.size > MOST_CHANGED) throw anew;
    }
    more = entries.length === ENTRIES_AT_ONCE;
  }
  return readIndex(context, { ids: [...ids] }, MOST_CHANGED, null);
}
