import type { Change } from "@/core/change";
import type { MessageId, PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";

/** Timers: what is to happen at a time. They stand beside the states they are about, and are written with them. */

/** Kinds of timers, each kept with a column of message_state. */
const COLUMN = { wake: "defer_until", await: "await_until", hand: "hand_until" } as const;
export type TimerKind = keyof typeof COLUMN;
const KINDS = Object.keys(COLUMN) as TimerKind[];
const CELL = { wake: "defer", await: "await", hand: "hand" } as const satisfies Record<TimerKind, string>;

/** The messages whose time of a kind a change writes, or that it makes or ends. */
function timedBy(change: Change, timer: TimerKind): MessageId[] {
  const ids: MessageId[] = [];
  for (const [id, edits] of change.messages)
    if (edits.some(({ kind }) => kind === CELL[timer] || kind === "exists" || kind === "gone")) ids.push(id);
  return ids;
}

/** Brings the timers of what was written in line with the states, in the same transaction. */
export async function keepTimers(tx: Transaction, person: PersonId, written: Change): Promise<void> {
  for (const kind of KINDS) {
    const ids = timedBy(written, kind);
    if (ids.length === 0) continue;
    const column = tx.unsafe(COLUMN[kind]);
    const list = listOf(ids);
    await tx`
      delete from timer t where person = ${person} and kind = ${kind} and ref = any(${list}::text::bigint[])
        and not exists (select 1 from message_state s
          where s.person = t.person and s.message = t.ref and s.${column} = t.at)`;
    await tx`
      insert into timer (person, kind, ref, at)
      select person, ${kind}, message, ${column} from message_state
      where person = ${person} and message = any(${list}::text::bigint[]) and ${column} is not null
      on conflict do nothing`;
  }
}

/** Whose messages have come to their time by then. */
export async function peopleDue(sql: Queryable, kind: TimerKind, now: Date): Promise<PersonId[]> {
  const rows = await sql<{ person: PersonId }[]>`
    select distinct person from timer where kind = ${kind} and at <= ${now.toISOString()}::timestamptz`;
  return rows.map((row) => row.person);
}

/** Messages that have come to their time by then, those that are due first; at the most so many. */
export async function messagesDue(
  sql: Queryable,
  kind: TimerKind,
  person: PersonId,
  now: Date,
  limit: number,
): Promise<number[]> {
  const rows = await sql<{ ref: number }[]>`
    select t.ref from timer t
      join message_state s on s.person = t.person and s.message = t.ref and s.${sql.unsafe(COLUMN[kind])} = t.at
    where t.person = ${person} and t.kind = ${kind} and t.at <= ${now.toISOString()}::timestamptz
    order by t.at, t.ref limit ${limit}`;
  return rows.map((row) => row.ref);
}

/** Ends timers that have done what they were for while what they stand by goes on. */
export const endTimers = (tx: Transaction, kind: TimerKind, person: PersonId, ids: readonly number[]) =>
  tx`delete from timer where person = ${person} and kind = ${kind} and ref = any(${listOf(ids)}::text::bigint[])`;
