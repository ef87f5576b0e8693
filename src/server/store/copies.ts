import { filterChange, type Change, type MessageState } from "@/core/change";
import { messageId, type MessageId, type PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { STATE_COLUMNS, valuesOf } from "./columns";
import { deleteMessages } from "./ends";
import { listOf } from "./list";
import { messageColumns } from "./message-columns";

interface Made {
  readonly id: number;
  readonly source: number;
  readonly state: MessageState;
}

/** Makes copies: the header row is taken from the source, the content is shared. @returns those that came to be */
async function makeCopies(tx: Transaction, person: PersonId, made: readonly Made[]): Promise<number[]> {
  const pairs = [listOf(made.map((m) => m.id)), listOf(made.map((m) => m.source))] as const;
  const rows = await tx.unsafe<{ id: number }[]>(
    `insert into message (person, id, ${messageColumns()})
     select m.person, w.new_id, ${messageColumns("m")}
     from unnest($2::text::bigint[], $3::text::bigint[]) as w(new_id, source)
       join message m on m.person = $1 and m.id = w.source
     returning id`,
    [person, ...pairs],
  );
  await tx`
    insert into message_words (person, message, words)
    select i.person, w.new_id, i.words
    from unnest(${pairs[0]}::text::bigint[], ${pairs[1]}::text::bigint[]) as w(new_id, source)
      join message_words i on i.person = ${person} and i.message = w.source
    on conflict do nothing`;
  const ids = new Set(rows.map((row) => row.id));
  const fields = STATE_COLUMNS.map(({ type }, i) => `(v->>${i + 2})::${type}`).join(", ");
  const states = made.filter(({ id }) => ids.has(id)).map(({ id, source, state }) => [id, source, ...valuesOf(state)]);
  await tx.unsafe(
    `insert into message_state (person, message, sender, ${STATE_COLUMNS.map(({ name }) => name).join(", ")})
     select $1, (v->>0)::bigint, s.sender, ${fields} from jsonb_array_elements($2::text::jsonb) as e(v)
       join message_state s on s.person = $1 and s.message = (v->>1)::bigint`,
    [person, JSON.stringify(states)],
  );
  return [...ids];
}

/** Makes copies and takes them away, and ends messages for good. @returns the part of the change that was written */
export async function writeExistence(tx: Transaction, person: PersonId, change: Change): Promise<Change> {
  const made: Made[] = [];
  const ended: MessageId[] = [];
  for (const [id, edits] of change.messages)
    for (const edit of edits) {
      if (edit.kind === "exists" && edit.after) made.push({ id, ...edit.after });
      else if (edit.kind === "exists" || (edit.kind === "gone" && edit.after)) ended.push(id);
    }
  const written = new Set<MessageId>();
  if (made.length > 0) for (const id of await makeCopies(tx, person, made)) written.add(messageId(id));
  if (ended.length > 0) for (const id of await deleteMessages(tx, person, ended)) written.add(messageId(id));
  return filterChange(
    change,
    (_, message) => written.has(message),
    () => false,
  );
}
