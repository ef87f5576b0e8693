import {
  compose,
  EMPTY,
  ofState,
  reconcile,
  type CellEdit,
  type Change,
  type MessageState,
  type Skip,
} from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { beforeAndAfter, columnsOf } from "./columns";
import { writeExistence } from "./copies";
import { boundsOf, listOf } from "./list";
import { readStates } from "./states";
import { readThings, writeThings } from "./things";

export interface Written {
  /** What was really written: this alone may enter the ledger. */
  readonly change: Change;
  readonly skipped: readonly Skip[];
}

/** A write that keeps being overtaken by writers that do not take their turn is given up. */
const MOST_TRIES = 5;

/** Which messages are looked at: those written, and those copies are made from. */
function messagesOf(change: Change): MessageId[] {
  const ids = new Set<MessageId>(change.keys());
  for (const edits of change.values())
    for (const edit of edits) if (edit.kind === "exists" && edit.after) ids.add(edit.after.source);
  return [...ids];
}

type Sort = "state" | "exists" | "thing";
const sortOf = (edit: CellEdit): Sort => (ofState(edit) ? "state" : edit.kind === "exists" ? "exists" : "thing");

/** The edits of one sort; most changes hold but one. */
const part = (change: Change, sort: Sort): Change => {
  const out = new Map<MessageId, readonly CellEdit[]>();
  for (const [id, edits] of change) {
    const keep = edits.filter((edit) => sortOf(edit) === sort);
    if (keep.length > 0) out.set(id, keep.length === edits.length ? edits : keep);
  }
  return out as ReadonlyMap<MessageId, readonly CellEdit[]> as Change;
};

const sortsIn = (change: Change): Set<Sort> => {
  const sorts = new Set<Sort>();
  for (const edits of new Set(change.values())) for (const edit of edits) sorts.add(sortOf(edit));
  return sorts;
};

const having = (change: Change, keep: (id: MessageId) => boolean): Change =>
  new Map([...change].filter(([id]) => keep(id))) as ReadonlyMap<MessageId, readonly CellEdit[]> as Change;
const only = (change: Change, ids: ReadonlySet<MessageId>): Change => having(change, (id) => ids.has(id));
const without = (change: Change, done: Change): Change => having(change, (id) => !done.has(id));

/**
 * One UPDATE for all cells of all messages, however many. A row is written only when the columns to be
 * written still hold what was read; PostgreSQL compares, so a writer who came between is never overwritten.
 * @returns what was written
 */
async function updateStates(
  tx: Transaction,
  person: PersonId,
  change: Change,
  states: ReadonlyMap<MessageId, MessageState>,
): Promise<Change> {
  const columns = columnsOf(change.values());
  const groups: unknown[] = [];
  const ids: number[] = [];
  const group: number[] = [];
  const known = new Map<readonly CellEdit[], Map<MessageState, number>>();
  const byText = new Map<string, number>();
  for (const [id, edits] of change) {
    const state = states.get(id)!;
    let ofState = known.get(edits);
    if (!ofState) known.set(edits, (ofState = new Map()));
    let number = ofState.get(state);
    if (number === undefined) {
      const values = beforeAndAfter(columns, state, edits);
      const text = JSON.stringify(values);
      number = byText.get(text) ?? groups.push(values) - 1;
      byText.set(text, number);
      ofState.set(state, number);
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
  const { count } = await tx.unsafe(
    `with g as materialized (select (n - 1)::int as number, ${fields}
       from jsonb_array_elements($1::text::jsonb) with ordinality as e(v, n))
     update message_state s set ${set}
       from unnest($2::text::bigint[], $3::text::int[]) as w(message, number) join g using (number)
       where s.person = $4 and s.message = w.message and s.message between $5 and $6 and ${same}`,
    [JSON.stringify(groups), listOf(ids), listOf(group), person, ...boundsOf(ids)] as never[],
  );
  if (count === ids.length) return change;
  // Some were overtaken; the rows of this very transaction are those that were not.
  const rows = await tx<{ message: number }[]>`
    select message from message_state
    where person = ${person} and message = any(${listOf(ids)}::text::bigint[])
      and xmin::text = (pg_current_xact_id()::text::bigint & 4294967295)::text`;
  return only(change, new Set(rows.map((row) => messageId(row.message))));
}

/**
 * Writes a change: each cell only where it still holds what the change says was before, the rest reported.
 * Call it inside the transaction that also writes the ledger.
 * @param states what was read in this transaction for the messages, if the change was made from it or is
 *   reconciled with it already; saves a read
 */
export async function writeChange(
  tx: Transaction,
  person: PersonId,
  change: Change,
  states?: ReadonlyMap<MessageId, MessageState>,
): Promise<Written> {
  let left = change;
  let written: Change = EMPTY;
  const skipped: Skip[] = [];
  for (let tries = 0; left.size > 0; tries++) {
    if (tries === MOST_TRIES) throw new Error("another program keeps changing these messages; try again");
    let [ready, read] = [left, states];
    if (tries > 0 || !read) {
      const found = (read = await readStates(tx, person, messagesOf(left)));
      const thing = await readThings(tx, person, left);
      const judged = reconcile(left, (id) => found.get(id) ?? null, thing);
      ready = judged.ready;
      skipped.push(...judged.skipped);
    }
    const sorts = sortsIn(ready);
    const cells = sorts.size === 1 && sorts.has("state") ? ready : part(ready, "state");
    const done = cells.size > 0 ? await updateStates(tx, person, cells, read) : EMPTY;
    written = compose(written, done);
    if (sorts.has("exists")) {
      const existence = part(ready, "exists");
      written = compose(written, only(existence, await writeExistence(tx, person, existence)));
    }
    if (sorts.has("thing")) {
      const things = part(ready, "thing");
      await writeThings(tx, person, things);
      written = compose(written, things);
    }
    // What was overtaken between the read and the write is looked at again.
    left = done.size === cells.size ? EMPTY : without(cells, done);
  }
  return { change: written, skipped };
}
