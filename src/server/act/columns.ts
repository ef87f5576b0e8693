import { columnsOfFields, encodeIndex, type ColumnFields } from "@/core/columns";
import { load } from "@/core/change";
import type { Test } from "@/core/narrow";
import { writePlace, type Place } from "@/core/api";
import { conditionOf, messageJoin, searchContext } from "../search";
import { currentSeq, entriesAfter, firstSeq, INDEX_NUMBERS, INDEX_TEXTS, listOf, stateFields } from "../store";
import { Refusal } from "../run";
import type { Context } from "./context";

/** How many rows one request may bring. */
export const MOST_INDEX_ROWS = 100_000;

/** Where the fields of a row come from, numbers and texts; numbers may be none. */
const STATE = stateFields("s").filter(({ field }) => field !== "labels");
const isText = (field: string) => field === "note" || field === "flagNote";
const NUMBERS: Record<string, string> = {
  ...INDEX_NUMBERS,
  ...Object.fromEntries(STATE.filter(({ field }) => !isText(field)).map(({ field, sql }) => [field, sql])),
};
const TEXTS: Record<string, string> = {
  ...INDEX_TEXTS,
  labels: "array_to_string(s.labels, ',')",
  ...Object.fromEntries(
    STATE.filter(({ field }) => isText(field)).map(({ field, sql }) => [field, `coalesce(${sql}, '')`]),
  ),
};

/**
 * Rows are read a field at a time, all values of it in one text: one by one the driver takes several times as
 * long for them. Between values stands the record separator, which no value may hold then.
 */
const SEPARATOR = "\x1e";
const GATHERED = [
  ...Object.keys(NUMBERS).map((name) => `string_agg(coalesce("${name}"::text, ''), ',') as "${name}"`),
  ...Object.keys(TEXTS).map((name) => `string_agg(replace("${name}", chr(30), ' '), chr(30)) as "${name}"`),
].join();
const SELECTED = Object.entries({ ...NUMBERS, ...TEXTS })
  .map(([name, source]) => `${source} as "${name}"`)
  .join();

type Gathered = Readonly<Record<string, string | null>>;

const numberOf = (text: string): number => (text === "" ? NaN : Number(text));

/** Fields as the columns are made of them. The rows came newest first, and are turned round. */
function fieldsOf(gathered: Gathered): ColumnFields {
  const fields: Record<string, readonly unknown[]> = {};
  const none = gathered.id === null;
  for (const name of Object.keys(NUMBERS) as (keyof typeof NUMBERS)[])
    fields[name] = none ? [] : gathered[name]!.split(",").reverse().map(numberOf);
  for (const name of Object.keys(TEXTS) as (keyof typeof TEXTS)[])
    fields[name] = none ? [] : gathered[name]!.split(SEPARATOR).reverse();
  const sets = new Map<string, readonly number[]>([["", []]]);
  fields.labels = (fields.labels as string[]).map((text) => {
    if (!sets.has(text)) sets.set(text, text.split(",").map(Number));
    return sets.get(text)!;
  });
  // Its keys are those of the two tables above, which together are those of a row.
  return fields as unknown as ColumnFields;
}

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
  const [gathered] = await sql<Gathered[]>`
    select ${sql.unsafe(GATHERED)} from (
      select ${sql.unsafe(SELECTED)} from ${messageJoin(sql, person)} and ${condition}
        ${before ? sql`and (m.date, m.id) < (to_timestamp(${before.dateMs}::float8 / 1000), ${before.id}::bigint)` : sql``}
      order by m.date desc, m.id desc limit ${limit}) as newest`;
  const fields = fieldsOf(gathered!);
  const next = fields.id.length === limit ? writePlace({ dateMs: fields.dateMs[0]!, id: fields.id[0]! }) : null;
  const wanted = new Set("ids" in which ? which.ids : []);
  for (const id of fields.id) wanted.delete(id);
  return encodeIndex({ seq, next, gone: [...wanted], columns: columnsOfFields(fields) });
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
