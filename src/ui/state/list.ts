import type { Mailbox } from "./mailbox";
import type { NarrowRow } from "@/core/narrow";

export type Order = "oldest" | "newest";
export type Predicate = (row: NarrowRow) => boolean;

/**
 * Which rows the list shows, in its order. Decided messages that no longer match stay until they are swept.
 * @param kept ids of such messages
 */
export function listRows(
  mailbox: Mailbox,
  matches: Predicate,
  kept: ReadonlyMap<number, string>,
  order: Order,
): Int32Array {
  const { cursor, columns } = mailbox;
  const out = new Int32Array(columns.count);
  let count = 0;
  for (let i = 0; i < columns.count; i++) {
    const row = order === "oldest" ? i : columns.count - 1 - i;
    cursor.row = row;
    if (mailbox.leaving.size > 0 && mailbox.leaving.has(columns.id[row]!)) continue;
    if (matches(cursor) || (kept.size > 0 && kept.has(columns.id[row]!))) out[count++] = row;
  }
  return out.subarray(0, count);
}

/** Where a row is in the list: both run by row number, so a binary search finds it. -1 when it is not there. */
export function placeOf(rows: Int32Array, row: number, order: Order): number {
  let low = 0;
  let high = rows.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const found = rows[middle]!;
    if (found === row) return middle;
    if (found < row === (order === "oldest")) low = middle + 1;
    else high = middle - 1;
  }
  return -1;
}

/** Whether each of some messages matches now. */
export function matching(mailbox: Mailbox, matches: Predicate, ids: Iterable<number>): Map<number, boolean> {
  const out = new Map<number, boolean>();
  for (const id of ids) {
    const row = mailbox.rowOf(id);
    if (row === undefined) continue;
    mailbox.cursor.row = row;
    out.set(id, !mailbox.leaving.has(id) && matches(mailbox.cursor));
  }
  return out;
}
