import { encodeColumns, type ColumnRow } from "@/core/columns";
import type { Test } from "@/core/narrow";
import type { Place } from "@/core/api";
import { conditionOf, messageJoin } from "../search";
import { currentSeq } from "../store";
import type { Context } from "./context";

/** How many rows one request may bring. */
export const MOST_INDEX_ROWS = 100_000;

export interface IndexPart {
  readonly bytes: Uint8Array;
  readonly count: number;
  /** The last write that is in it for sure; events after it must be applied. */
  readonly seq: number;
  /** Where the next part begins; null at the end. */
  readonly next: Place | null;
}

type Row = Record<"id" | "thread" | "date_ms" | "size" | "folder" | "bits" | "traits" | "marker", number> & {
  labels: number[];
} & Record<"start_ms" | "due_ms" | "defer_ms" | "await_ms", number | null> &
  Record<"from_name" | "from_address" | "to_key" | "subject" | "preview" | "list", string> & {
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
): Promise<IndexPart> {
  const { sql } = db;
  const seq = await currentSeq(sql, person);
  const condition = "ids" in which ? sql`m.id = any(${[...which.ids]}::bigint[])` : conditionOf(sql, which.test);
  const ms = (column: string) => sql`(extract(epoch from ${sql(column)}) * 1000)::float8`;
  const rows = await sql<Row[]>`
    select m.id, m.thread, ${ms("m.date")} as date_ms, m.size, s.folder, s.bits, m.traits, s.marker, s.labels,
      ${ms("s.flag_start")} as start_ms, ${ms("s.flag_due")} as due_ms, ${ms("s.defer_until")} as defer_ms,
      ${ms("s.await_until")} as await_ms, m.from_name, m.from_address, m.to_key, m.subject, m.preview, m.list,
      s.note, s.flag_note
    from ${messageJoin(sql, person)} and ${condition}
      ${before ? sql`and (m.date, m.id) < (to_timestamp(${before.dateMs}::float8 / 1000), ${before.id}::bigint)` : sql``}
    order by m.date desc, m.id desc limit ${limit}`;
  const ordered = rows.map(rowOf).reverse();
  const first = ordered[0];
  const next = rows.length === limit && first ? { dateMs: first.dateMs, id: first.id } : null;
  return { bytes: encodeColumns(ordered), count: rows.length, seq, next };
}
