import type { Change } from "@/core/change";
import type { MessageId, PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";

/** Timers: what is to happen at a time. They stand beside the states they are about, and are written with them. */

/** The messages whose time of coming back a change writes, or that it makes or ends. */
function deferredBy(change: Change): MessageId[] {
  const ids: MessageId[] = [];
  for (const [id, edits] of change.messages)
    if (edits.some(({ kind }) => kind === "defer" || kind === "exists" || kind === "gone")) ids.push(id);
  return ids;
}

/** Brings the timers of what was written in line with the states, in the same transaction. */
export async function keepTimers(tx: Transaction, person: PersonId, written: Change): Promise<void> {
  const ids = deferredBy(written);
  if (ids.length === 0) return;
  const list = listOf(ids);
  await tx`
    delete from timer t where person = ${person} and kind = 'wake' and ref = any(${list}::text::bigint[])
      and not exists (select 1 from message_state s
        where s.person = t.person and s.message = t.ref and s.defer_until = t.at)`;
  await tx`
    insert into timer (person, kind, ref, at)
    select person, 'wake', message, defer_until from message_state
    where person = ${person} and message = any(${list}::text::bigint[]) and defer_until is not null
    on conflict do nothing`;
}

/** Whose messages come back by that time. */
export async function peopleDue(sql: Queryable, now: Date): Promise<PersonId[]> {
  const rows = await sql<{ person: PersonId }[]>`
    select distinct person from timer where kind = 'wake' and at <= ${now.toISOString()}::timestamptz`;
  return rows.map((row) => row.person);
}

/** Messages that come back by that time, those that are due first; at the most so many. */
export async function messagesDue(sql: Queryable, person: PersonId, now: Date, limit: number): Promise<number[]> {
  const rows = await sql<{ ref: number }[]>`
    select t.ref from timer t
      join message_state s on s.person = t.person and s.message = t.ref and s.defer_until = t.at
    where t.person = ${person} and t.kind = 'wake' and t.at <= ${now.toISOString()}::timestamptz
    order by t.at, t.ref limit ${limit}`;
  return rows.map((row) => row.ref);
}
