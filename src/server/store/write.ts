import {
  compose,
  EMPTY,
  filterChange,
  messagesWith,
  ofState,
  reconcile,
  thingKey,
  type Change,
  type MessageEdit,
  type MessageState,
  type Skip,
} from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import { PREPARED, type Transaction } from "../db";
import { beforeAndAfter, columnsOf } from "./columns";
import { writeExistence } from "./copies";
import { boundsOf, listOf } from "./list";
import { readStates } from "./states";
import { readThings, writeThings } from "./things";
import { keepTimers } from "./timers";

export interface Written {
  /** What was really written: this alone may enter the ledger. */
  readonly change: Change;
  readonly skipped: readonly Skip[];
}

/** A write that keeps being overtaken by writers that do not take their turn is given up. */
const MOST_TRIES = 5;

/** Which messages are looked at: those written, and those copies are made from. */
function messagesOf(change: Change): MessageId[] {
  const ids = new Set<MessageId>(change.messages.keys());
  for (const edits of new Set(change.messages.values()))
    for (const edit of edits) if (edit.kind === "exists" && edit.after) ids.add(edit.after.source);
  return [...ids];
}

const none = () => false;
const states = (change: Change): Change => messagesWith(change, ofState);
const existence = (change: Change): Change => messagesWith(change, (edit) => !ofState(edit));
const things = (change: Change): Change => (change.things.size === 0 ? EMPTY : filterChange(change, none, () => true));
const having = (change: Change, keep: (id: MessageId) => boolean): Change =>
  filterChange(change, (_, id) => keep(id), none);

/**
 * One UPDATE for all cells of all messages, however many. A row is written only when the columns to be
 * written still hold what was read; PostgreSQL compares, so a writer who came between is never overwritten, and
 * it says itself which rows it wrote, whatever else this transaction has done before.
 * @returns what was written
 */
async function updateStates(
  tx: Transaction,
  person: PersonId,
  change: Change,
  read: ReadonlyMap<MessageId, MessageState>,
): Promise<Change> {
  const columns = columnsOf(change.messages.values());
  const groups: unknown[] = [];
  const ids: number[] = [];
  const group: number[] = [];
  const known = new Map<readonly MessageEdit[], Map<MessageState, number>>();
  const byText = new Map<string, number>();
  for (const [id, edits] of change.messages) {
    const state = read.get(id)!;
    let byState = known.get(edits);
    if (!byState) known.set(edits, (byState = new Map()));
    let number = byState.get(state);
    if (number === undefined) {
      const values = beforeAndAfter(columns, state, edits);
      const text = JSON.stringify(values);
      number = byText.get(text) ?? groups.push(values) - 1;
      byText.set(text, number);
      byState.set(state, number);
    }
    ids.push(id);
    group.push(number);
  }
  const since = "folder_since = case when s.folder = g.folder_after then s.folder_since else now() end";
  const set = columns
    .flatMap(({ name }) => [`${name} = g.${name}_after`, ...(name === "folder" ? [since] : [])])
    .join(", ");
  const same = columns.map(({ name }) => `s.${name} is not distinct from g.${name}_before`).join(" and ");
  const fields = columns
    .map(
      ({ name, type }, i) => `(v->>${2 * i})::${type} as ${name}_before, (v->>${2 * i + 1})::${type} as ${name}_after`,
    )
    .join(", ");
  // The ids are only worth their bytes where some rows were left out.
  const [row] = await tx.unsafe<{ written: string | null }[]>(
    `with g as materialized (select (n - 1)::int as number, ${fields}
       from jsonb_array_elements($1::text::jsonb) with ordinality as e(v, n)),
     done as (update message_state s set ${set}
       from unnest($2::text::bigint[], $3::text::int[]) as w(message, number) join g using (number)
       where s.person = $4 and s.message = w.message and s.message between $5 and $6 and ${same}
       returning s.message)
     select case when count(*) = $7 then null else coalesce(string_agg(message::text, ','), '') end as written from done`,
    [JSON.stringify(groups), listOf(ids), listOf(group), person, ...boundsOf(ids), ids.length],
    PREPARED,
  );
  if (!row || row.written === null) return change;
  const written = new Set(row.written === "" ? [] : row.written.split(",").map((id) => messageId(Number(id))));
  return having(change, (id) => written.has(id));
}

/**
 * Writes a change: each cell only where it still holds what the change says was before, the rest reported.
 * Call it in the person's turn, inside the transaction that also writes the ledger.
 * @param known what was read in this transaction for the messages, if the change was made from it or is
 *   reconciled with it already; saves a read. Things are read again in any case
 */
export async function writeChange(
  tx: Transaction,
  person: PersonId,
  change: Change,
  known?: ReadonlyMap<MessageId, MessageState>,
): Promise<Written> {
  const thing = await readThings(tx, person, change);
  const skipped: Skip[] = [];
  let written: Change = EMPTY;
  let left = change;
  for (let tries = 0; ; tries++) {
    if (tries === MOST_TRIES) throw new Error("another program keeps changing these messages; try again");
    let [ready, read] = [left, known];
    if (tries > 0 || !read) {
      const found = (read = await readStates(tx, person, messagesOf(left)));
      const judged = reconcile(left, { state: (id) => found.get(id) ?? null, thing });
      ready = judged.ready;
      skipped.push(...judged.skipped);
    }
    const cells = states(ready);
    const done = cells.messages.size > 0 ? await updateStates(tx, person, cells, read) : EMPTY;
    const ends = existence(ready);
    written = compose(written, done);
    if (ends.messages.size > 0) written = compose(written, await writeExistence(tx, person, ends));
    // Things come after the messages: a folder may go once its mail has left it.
    const made = things(ready);
    if (made.things.size > 0) {
      const inUse = await writeThings(tx, person, made);
      for (const edit of made.things.values())
        if (inUse.has(thingKey(edit)))
          skipped.push({ message: edit.about, cell: thingKey(edit), reason: "changed-elsewhere" });
      written = compose(
        written,
        filterChange(made, none, (edit) => !inUse.has(thingKey(edit))),
      );
    }
    // What was overtaken between the read and the write is looked at again.
    if (done.messages.size === cells.messages.size) break;
    left = having(cells, (id) => !done.messages.has(id));
  }
  await keepTimers(tx, person, written);
  return { change: written, skipped };
}
