import type { MessageState } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import { PREPARED, type Queryable } from "../db";
import { STATE_COLUMNS, stateFields, stateOfRead, type ReadRow } from "./columns";
import { boundsOf, listOf } from "./list";

const FIELDS = stateFields("s")
  .map(({ field, sql }) => `${sql} as "${field}"`)
  .join(", ");
const GROUPS = STATE_COLUMNS.filter(({ field }) => field !== null)
  .map(({ name }) => `s.${name}`)
  .join(", ");

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
  const rows = await sql.unsafe<(ReadRow & { messages: string })[]>(
    `select string_agg(s.message::text, ',') as messages, ${FIELDS}
     from unnest($2::text::bigint[]) as w(message)
       join message_state s on s.person = $1 and s.message = w.message and s.message between $3 and $4
     group by ${GROUPS}`,
    [person, listOf(ids), ...boundsOf(ids)],
    PREPARED,
  );
  for (const { messages, ...row } of rows) {
    const state = stateOfRead(row);
    for (const id of messages.split(",")) out.set(messageId(Number(id)), state);
  }
  return out;
}
