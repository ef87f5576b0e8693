import { ColumnsMaker, encodeIndex, inOrder, type Columns } from "@/core/columns";
import { load } from "@/core/change";
import type { Test } from "@/core/narrow";
import type { PersonId } from "@/core/id";
import { readCopy, type CopyRow, type Queryable } from "../db";
import { pageOfIds } from "../search";
import { currentSeq, entriesAfter, firstSeq, INDEX_FIELDS, listOf } from "../store";
import { Refusal } from "../run";
import type { Context } from "./context";

/** How many rows one request may bring. */
export const MOST_INDEX_ROWS = 100_000;

const SELECTED = INDEX_FIELDS.map(({ sql }) => sql).join();

const SPACE = 0x20;

/** For each field, what writes it into a row of the columns. */
function writersInto({ numbers, texts, labels }: ColumnsMaker): ((row: number, from: CopyRow) => void)[] {
  return INDEX_FIELDS.map((field, i) => {
    if (field.kind === "labels") return (row, from) => labels(row, from.wholes(i));
    if (field.kind === "text") {
      const column = texts[field.name];
      return (row, { bytes, starts, ends }) => {
        let start = starts[i]!;
        let end = ends[i]!;
        if (field.padded && start < end) {
          if (bytes[start] === SPACE) start++;
          if (bytes[end - 1] === SPACE) end--;
        }
        column.bytes(row, bytes, start, Math.max(start, end));
      };
    }
    const column = numbers[field.name];
    if (field.kind === "time") return (row, from) => (column[row] = from.time(i));
    return (row, from) => (column[row] = from.whole(i));
  });
}

/**
 * Rows as columns. They are read by id, as they lie in both tables, newest first: in order of date each is a
 * look-up of its own, which takes three times as long.
 * @param where a condition without parameters
 */
async function readColumns(sql: Queryable, person: PersonId, where: string, limit: number): Promise<Columns> {
  const maker = new ColumnsMaker(limit);
  const writers = writersInto(maker);
  let row = limit;
  await readCopy(
    sql,
    `select ${SELECTED} from message m join message_state s on s.person = m.person and s.message = m.id
     where m.person = ${person} and ${where} order by m.id desc limit ${limit}`,
    writers.length,
    (from) => {
      row--;
      for (const write of writers) write(row, from);
    },
  );
  return inOrder(maker.from(row));
}

const among = (ids: readonly number[]): string => `m.id = any('${listOf(ids)}')`;

/**
 * A part of the mailbox's index as columns, ordered by date and id. Of all messages parts come newest first, by
 * id: what came in last is there before the rest.
 * @param which the newest of a narrowing, those with some ids, or all of them
 * @param before where the last part went on; only of all messages there is more than one part
 */
export async function readIndex(
  { db, person }: Context,
  which: { readonly test: Test } | { readonly ids: readonly number[] },
  limit: number,
  before: number | null,
): Promise<Uint8Array> {
  const { sql } = db;
  const seq = await currentSeq(sql, person);
  const ids = "ids" in which ? which.ids : null;
  const whole = "test" in which && which.test.kind === "all";
  const wanted = "ids" in which ? which.ids : whole ? null : await newestOf(sql, person, which.test, limit);
  const columns = wanted
    ? await readColumns(sql, person, among(wanted), wanted.length)
    : await readColumns(sql, person, before === null ? "true" : `m.id < ${before}`, limit);
  const gone = new Set(ids ?? []);
  for (const id of columns.id) gone.delete(id);
  const next = whole && columns.count === limit ? columns.id.reduce((a, b) => Math.min(a, b)) : null;
  return encodeIndex({ seq, next, gone: [...gone], columns });
}

async function newestOf(sql: Queryable, person: PersonId, test: Test, limit: number): Promise<number[]> {
  return (await pageOfIds(sql, person, test, "newest", limit)).map(({ id }) => id);
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
      const touched =
        entry.kind === "arrival" ? (change as { arrived: number[] }).arrived : load(change).messages.keys();
      for (const id of touched) ids.add(id);
      if (ids.size > MOST_CHANGED) throw anew;
    }
    more = entries.length === ENTRIES_AT_ONCE;
  }
  return readIndex(context, { ids: [...ids] }, MOST_CHANGED, null);
}
