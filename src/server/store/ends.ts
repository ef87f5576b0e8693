import type { MessageId, PersonId } from "@/core/id";
import type { Transaction } from "../db";
import { listOf } from "./list";

/**
 * Deletes messages, and their sources where no copy holds them still. The message goes before its words: who is
 * just writing them holds the message's row, so that what they wrote is there to be deleted after.
 * @returns ids of those that were there
 */
export async function deleteMessages(
  tx: Transaction,
  person: PersonId,
  ids: readonly MessageId[],
): Promise<readonly number[]> {
  const list = listOf(ids);
  await tx`delete from message_state where person = ${person} and message = any(${list}::text::bigint[])`;
  const gone = await tx<{ id: number; content: number }[]>`
    delete from message where person = ${person} and id = any(${list}::text::bigint[]) returning id, content`;
  for (const table of ["draft", "draft_file", "held"])
    await tx.unsafe(`delete from ${table} where person = $1 and message = any($2::text::bigint[])`, [person, list]);
  await tx`delete from pause where person = ${person} and draft = any(${list}::text::bigint[])`;
  await tx`delete from message_words where person = ${person} and message = any(${list}::text::bigint[])`;
  const ended = await tx<{ id: number }[]>`
    delete from content c where c.person = ${person} and c.id = any(${listOf(gone.map((row) => row.content))}::text::bigint[])
      and not exists (select 1 from message m where m.person = ${person} and m.content = c.id) returning id`;
  await tx`
    delete from coming where person = ${person} and content = any(${listOf(ended.map((row) => row.id))}::text::bigint[])`;
  return gone.map((row) => row.id);
}
