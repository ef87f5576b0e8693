import type { Change, MessageState } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { STATE_COLUMNS } from "./columns";

/** Makes and takes away copies. The header row is taken from the source; the content is shared. */
export async function writeExistence(tx: Transaction, person: PersonId, change: Change): Promise<Set<MessageId>> {
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
      m as (insert into message (person, id, content, thread, date, size, traits, from_name, from_address, recipients, cc,
          subject, preview, list, message_id, attachments, flaws, from_key, to_key, subject_key, list_key, cc_key, via,
          via_key, file_key)
        select m.person, w.new_id, m.content, m.thread, m.date, m.size, m.traits, m.from_name, m.from_address, m.recipients,
          m.cc, m.subject, m.preview, m.list, m.message_id, m.attachments, m.flaws, m.from_key, m.to_key, m.subject_key,
          m.list_key, m.cc_key, m.via, m.via_key, m.file_key
        from w join message m on m.person = ${person} and m.id = w.source returning id)
      select id from m`;
    await tx`
      insert into message_words (person, message, words)
      select i.person, w.new_id, i.words
      from unnest(${made.map((m) => m.id)}::bigint[], ${made.map((m) => m.source)}::bigint[]) as w(new_id, source)
        join message_words i on i.person = ${person} and i.message = w.source
      on conflict do nothing`;
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
    const ids = rows.map((row) => row.message);
    await tx`delete from message_words where person = ${person} and message = any(${ids}::bigint[])`;
    await tx`delete from message where person = ${person} and id = any(${ids}::bigint[])`;
    for (const row of rows) written.add(messageId(row.message));
  }
  return written;
}
