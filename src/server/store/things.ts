import { isThing, thingCell, type Change, type ReadThing, type ThingEdit } from "@/core/change";
import type { MessageId, PersonId, TaskId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { listOf } from "./list";

type Noted<K extends ThingEdit["kind"]> = Extract<ThingEdit, { kind: K }> & { readonly message: MessageId };

function* thingsIn(change: Change): Generator<ThingEdit & { readonly message: MessageId }> {
  for (const [message, edits] of change) for (const edit of edits) if (isThing(edit)) yield { ...edit, message };
}

const ofKind = <K extends ThingEdit["kind"]>(change: Change, kind: K): Noted<K>[] =>
  [...thingsIn(change)].filter((edit) => edit.kind === kind) as unknown as Noted<K>[];

interface TaskRow {
  readonly id: number;
  readonly title: string;
  readonly due: number | null;
  readonly estimate: number | null;
  readonly about: string;
  readonly done: boolean;
}

/** What is stored now for the things a change writes. */
export async function readThings(sql: Queryable, person: PersonId, change: Change): Promise<ReadThing> {
  const found = new Map<string, ThingEdit["before"]>();
  const tasks = ofKind(change, "task").map((edit) => edit.task);
  const contacts = ofKind(change, "contact").map((edit) => edit.address);
  const blocked = ofKind(change, "blocked").map((edit) => edit.address);
  if (tasks.length > 0) {
    const rows = await sql<TaskRow[]>`
      select id, title, (extract(epoch from due) * 1000)::float8 as due, estimate, about, done
      from task where person = ${person} and id = any(${listOf(tasks)}::text::bigint[]) for update`;
    for (const { id, due, ...task } of rows)
      found.set(thingCell({ kind: "task", task: id as TaskId, before: null, after: null }), {
        ...task,
        due: due === null ? null : new Date(due).toISOString(),
      });
  }
  if (contacts.length > 0) {
    const rows = await sql<{ address: string; name: string }[]>`
      select address, name from contact where person = ${person} and address = any(${contacts}::text[])`;
    for (const { address, name } of rows) found.set(`contact:${address}`, { name });
  }
  if (blocked.length > 0) {
    const rows = await sql<{ address: string }[]>`
      select address from blocked where person = ${person} and address = any(${blocked}::text[])`;
    for (const { address } of rows) found.set(`blocked:${address}`, true);
  }
  return (edit) => found.get(thingCell(edit)) ?? (edit.kind === "blocked" ? false : null);
}

async function writeTasks(tx: Transaction, person: PersonId, edits: readonly Noted<"task">[]): Promise<void> {
  const made = edits.flatMap(({ task, message, after }) => (after ? [{ id: task, message, ...after }] : []));
  const gone = edits.filter((edit) => edit.after === null).map((edit) => edit.task);
  if (made.length > 0)
    await tx`
      insert into task (person, id, message, title, due, estimate, about, done)
      select ${person}, t.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
        as t(id bigint, message bigint, title text, due timestamptz, estimate int, about text, done boolean)
      on conflict (person, id) do update set title = excluded.title, due = excluded.due,
        estimate = excluded.estimate, about = excluded.about, done = excluded.done`;
  if (gone.length > 0)
    await tx`delete from task where person = ${person} and id = any(${listOf(gone)}::text::bigint[])`;
}

async function writePeople(tx: Transaction, person: PersonId, change: Change): Promise<void> {
  for (const { address, after } of ofKind(change, "contact"))
    if (after)
      await tx`insert into contact (person, address, name) values (${person}, ${address}, ${after.name})
        on conflict (person, address) do update set name = excluded.name`;
    else await tx`delete from contact where person = ${person} and address = ${address}`;
  for (const { address, after } of ofKind(change, "blocked"))
    if (after) await tx`insert into blocked (person, address) values (${person}, ${address}) on conflict do nothing`;
    else await tx`delete from blocked where person = ${person} and address = ${address}`;
}

/** Deletes messages for good, and their sources where no copy holds them still. */
async function deleteMessages(tx: Transaction, person: PersonId, ids: readonly MessageId[]): Promise<void> {
  const list = listOf(ids);
  await tx`delete from message_state where person = ${person} and message = any(${list}::text::bigint[])`;
  await tx`delete from message_words where person = ${person} and message = any(${list}::text::bigint[])`;
  await tx`
    with gone as (delete from message where person = ${person} and id = any(${list}::text::bigint[]) returning content)
    delete from content c using (select distinct content from gone) g
    where c.person = ${person} and c.id = g.content and not exists (
      select 1 from message m where m.person = ${person} and m.content = g.content and not m.id = any(${list}::text::bigint[]))`;
}

/** Writes the things of a change that was reconciled with what readThings read in this transaction. */
export async function writeThings(tx: Transaction, person: PersonId, change: Change): Promise<void> {
  await writeTasks(tx, person, ofKind(change, "task"));
  await writePeople(tx, person, change);
  const gone = ofKind(change, "gone").filter((edit) => edit.after);
  if (gone.length > 0)
    await deleteMessages(
      tx,
      person,
      gone.map((edit) => edit.message),
    );
}
