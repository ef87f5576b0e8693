import { compose, EMPTY, reconcile, type CellEdit, type Change, type MessageState, type Skip } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { beforeAndAfter, columnsOf, STATE_COLUMNS } from "./columns";
import { boundsOf, listOf } from "./list";
import { readStates } from "./states";

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

const hasExistence = (change: Change): boolean => {
  for (const edits of new Set(change.values())) if (edits.some((edit) => edit.kind === "exists")) return true;
  return false;
};

const split = (change: Change, existence: boolean): Change => {
  const out = new Map<MessageId, readonly CellEdit[]>();
  for (const [id, edits] of change) {
    const keep = edits.filter((edit) => (edit.kind === "exists") === existence);
    if (keep.length > 0) out.set(id, keep.length === edits.length ? edits : keep);
  }
  return out as ReadonlyMap<MessageId, readonly CellEdit[]> as Change;
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
  const set = columns.map(({ name }) => `${name} = g.${name}_after`).join(", ");
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

/** Makes and takes away copies. The header row is taken from the source; the content is shared. */
async function writeExistence(tx: Transaction, person: PersonId, change: Change): Promise<Set<MessageId>> {
  const made: { id: number; source: number; state: MessageState }[] = [];
  const gone: { id: number; state: MessageState }[] = [];
  for (const [id, edits] of change)
    for (const edit of edits) {
      if (edit.kind !== "exists") continue;
      if (edit.after) made.push({ id, ...edit.after });
      else if (edit.before) gone.push({ id, state: edit.before.state });
    }
  const written = new Set<MessageId>();
  if (made.length > 0) {
    const rows = await tx<{ id: number }[]>`
      with w as (select * from unnest(${made.map((m) => m.id)}::bigint[], ${made.map((m) => m.source)}::bigint[]) as w(new_id, source)),
      m as (insert into message
        select m.person, w.new_id, m.content, m.thread, m.date, m.size, m.traits, m.from_name, m.from_address, m.recipients,
          m.cc, m.subject, m.preview, m.list, m.message_id, m.attachments, m.flaws, m.from_key, m.to_key, m.subject_key,
          m.preview_key, m.list_key
        from w join message m on m.person = ${person} and m.id = w.source returning id)
      select id from m`;
    const ids = new Set(rows.map((row) => row.id));
    const states = made.filter(({ id }) => ids.has(id));
    const fields = STATE_COLUMNS.map(({ type }, i) => `(v->>${i + 1})::${type}`).join(", ");
    await tx.unsafe(
      `insert into message_state (person, message, ${STATE_COLUMNS.map(({ name }) => name).join(", ")})
       select $1, (v->>0)::bigint, ${fields} from jsonb_array_elements($2::text::jsonb) as e(v)`,
      [person, JSON.stringify(states.map(({ id, state }) => [id, ...STATE_COLUMNS.map((column) => column.of(state))]))],
    );
    for (const id of ids) written.add(messageId(id));
  }
  if (gone.length > 0) {
    const rows = await tx<{ message: number }[]>`
      delete from message_state where person = ${person} and message = any(${gone.map((g) => g.id)}::bigint[])
      returning message`;
    await tx`delete from message where person = ${person} and id = any(${rows.map((r) => r.message)}::bigint[])`;
    for (const row of rows) written.add(messageId(row.message));
  }
  return written;
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
      const split = reconcile(left, (id) => found.get(id) ?? null);
      ready = split.ready;
      skipped.push(...split.skipped);
    }
    const copies = hasExistence(ready);
    const cells = copies ? split(ready, false) : ready;
    const done = cells.size > 0 ? await updateStates(tx, person, cells, read) : EMPTY;
    written = compose(written, done);
    if (copies) {
      const existence = split(ready, true);
      written = compose(written, only(existence, await writeExistence(tx, person, existence)));
    }
    // What was overtaken between the read and the write is looked at again.
    left = done.size === cells.size ? EMPTY : without(cells, done);
  }
  return { change: written, skipped };
}
