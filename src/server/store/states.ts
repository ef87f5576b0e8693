import type { MessageState } from "@/core/change";
import { STATE_BIT } from "@/core/columns";
import { folderId, labelId, markerId, messageId, type MessageId, type PersonId } from "@/core/id";
import type { Queryable } from "../db";
import { boundsOf, listOf } from "./list";

/** A row of message_state as numbers, times in milliseconds. */
interface StateRow {
  message: number;
  folder: number;
  bits: number;
  marker: number;
  labels: number[];
  start: number | null;
  due: number | null;
  flag_note: string | null;
  note: string | null;
  defer: number | null;
  await: number | null;
}

const iso = (ms: number | null): string | null => (ms === null ? null : new Date(ms).toISOString());

function stateOf(row: StateRow): MessageState {
  return {
    folder: folderId(row.folder),
    read: (row.bits & STATE_BIT.read) !== 0,
    flag: row.bits & STATE_BIT.flagged ? { start: iso(row.start), due: iso(row.due), note: row.flag_note } : null,
    pin: (row.bits & STATE_BIT.pin) !== 0,
    marker: row.marker === 0 ? null : markerId(row.marker),
    labels: row.labels.map(labelId),
    note: row.note,
    defer: iso(row.defer),
    await: iso(row.await),
    owed: (row.bits & STATE_BIT.owed) !== 0,
  };
}

/**
 * What is stored for the messages now; those that do not exist are missing. Messages in the same state are
 * read as one row with the list of their ids: ten thousand are mostly a few dozen different states.
 */
export async function readStates(
  sql: Queryable,
  person: PersonId,
  ids: readonly MessageId[],
): Promise<Map<MessageId, MessageState>> {
  const out = new Map<MessageId, MessageState>();
  if (ids.length === 0) return out;
  const [low, high] = boundsOf(ids);
  const rows = await sql<(Omit<StateRow, "message"> & { messages: string })[]>`
    select string_agg(s.message::text, ',') as messages, folder, bits, marker, labels,
      (extract(epoch from flag_start) * 1000)::float8 as start, (extract(epoch from flag_due) * 1000)::float8 as due,
      flag_note, note, (extract(epoch from defer_until) * 1000)::float8 as defer,
      (extract(epoch from await_until) * 1000)::float8 as await
    from unnest(${listOf(ids)}::text::bigint[]) as w(message)
      join message_state s on s.person = ${person} and s.message = w.message and s.message between ${low} and ${high}
    group by folder, bits, marker, labels, flag_start, flag_due, flag_note, note, defer_until, await_until`;
  for (const { messages, ...row } of rows) {
    const state = stateOf({ ...row, message: 0 });
    for (const id of messages.split(",")) out.set(messageId(Number(id)), state);
  }
  return out;
}
