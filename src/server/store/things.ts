import {
  listedKey,
  readListed,
  THING_KINDS,
  thingKey,
  type Aside,
  type Change,
  type Task,
  type ThingEdit,
  type ThingKey,
  type ThingKind,
  type ThingValue,
} from "@/core/change";
import type { PersonId } from "@/core/id";
import type { Queryable, Transaction } from "../db";
import { calendar, event } from "./agenda";
import { held, pause } from "./held";
import { leaving } from "./leave";
import { listOf } from "./list";
import { report } from "./report";
import type { EditOf, ThingTable } from "./thing-table";

const NONE: readonly string[] = [];
const present = (edits: readonly ThingEdit[]) => edits.filter((edit) => edit.after !== null).map((edit) => edit.key);
const absent = (edits: readonly ThingEdit[]) => edits.filter((edit) => edit.after === null).map((edit) => edit.key);
/** Keys of what is on lists, as two columns. */
const columnsOf = (keys: readonly string[]): [lists: string[], addresses: string[]] => {
  const read = keys.map(readListed);
  return [read.map(({ list }) => list), read.map(({ address }) => address)];
};
/** Keys that are numbers, as PostgreSQL writes an array of them. */
const numbers = (keys: readonly string[]): string => listOf(keys.map(Number));

const task: ThingTable<"task"> = {
  async read(sql, person, keys) {
    const rows = await sql<
      (Omit<Task, "due"> & { id: number; due: number | null })[]
    >`select id, title, (extract(epoch from due) * 1000)::float8 as due, estimate, about, done, pressing, waiting, repeat
      from task where person = ${person} and id = any(${numbers(keys)}::text::bigint[])`;
    return rows.map(({ id, due, ...rest }) => [
      String(id),
      { ...rest, due: due === null ? null : new Date(due).toISOString() },
    ]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, about, after }) =>
      after ? [{ ...after, id: Number(key), message: about, about: after.about }] : [],
    );
    if (made.length > 0)
      await tx`
        insert into task (person, id, message, title, due, estimate, about, done, pressing, waiting, repeat)
        select ${person}, t.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb)
          as t(id bigint, message bigint, title text, due timestamptz, estimate int, about text, done boolean,
            pressing boolean, waiting boolean, repeat text)
        on conflict (person, id) do update set title = excluded.title, due = excluded.due,
          estimate = excluded.estimate, about = excluded.about, done = excluded.done, pressing = excluded.pressing,
          waiting = excluded.waiting, repeat = excluded.repeat`;
    const gone = absent(edits);
    if (gone.length > 0)
      await tx`delete from task where person = ${person} and id = any(${numbers(gone)}::text::bigint[])`;
    return NONE;
  },
};

const contact: ThingTable<"contact"> = {
  async read(sql, person, keys) {
    const rows = await sql<{ address: string; name: string; note: string }[]>`
      select address, name, note from contact where person = ${person} and address = any(${[...keys]}::text[])`;
    return rows.map(({ address, ...value }) => [address, value]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ key, ...after }] : []));
    if (made.length > 0)
      await tx`
        insert into contact (person, address, name, note)
        select ${person}, c.* from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb) as c(key text, name text, note text)
        on conflict (person, address) do update set name = excluded.name, note = excluded.note`;
    await tx`delete from contact where person = ${person} and address = any(${absent(edits)}::text[])`;
    return NONE;
  },
};

const blocked: ThingTable<"blocked"> = {
  async read(sql, person, keys) {
    const rows = await sql<{ address: string }[]>`
      select address from blocked where person = ${person} and address = any(${[...keys]}::text[])`;
    return rows.map(({ address }) => [address, true]);
  },
  async write(tx, person, edits) {
    await tx`insert into blocked (person, address) select ${person}, unnest(${present(edits)}::text[]) on conflict do nothing`;
    await tx`delete from blocked where person = ${person} and address = any(${absent(edits)}::text[])`;
    return NONE;
  },
};

const listed: ThingTable<"listed"> = {
  async read(sql, person, keys) {
    const [lists, addresses] = columnsOf(keys);
    const rows = await sql<{ list: string; address: string }[]>`
      select list, address from listed natural join unnest(${lists}::text[], ${addresses}::text[]) as k(list, address)
      where person = ${person}`;
    return rows.map(({ list, address }) => [listedKey(list, address), true]);
  },
  async write(tx, person, edits) {
    const [lists, addresses] = columnsOf(present(edits));
    await tx`
      insert into listed (person, list, address)
      select ${person}, k.* from unnest(${lists}::text[], ${addresses}::text[]) as k on conflict do nothing`;
    const [from, gone] = columnsOf(absent(edits));
    await tx`
      delete from listed l using unnest(${from}::text[], ${gone}::text[]) as k(list, address)
      where l.person = ${person} and l.list = k.list and l.address = k.address`;
    return NONE;
  },
};

const aside: ThingTable<"aside"> = {
  async read(sql, person, keys) {
    const rows = await sql<{ source: string; state: Aside }[]>`
      select source, state from aside where person = ${person} and source = any(${[...keys]}::text[])`;
    return rows.map(({ source, state }) => [source, state]);
  },
  async write(tx, person, edits) {
    const made = edits.flatMap(({ key, after }) => (after ? [{ key, after }] : []));
    await tx`
      insert into aside (person, source, state)
      select ${person}, a.key, a.after from jsonb_to_recordset(${JSON.stringify(made)}::text::jsonb) as a(key text, after text)
      on conflict (person, source) do update set state = excluded.state, at = now()`;
    await tx`delete from aside where person = ${person} and source = any(${absent(edits)}::text[])`;
    return NONE;
  },
};

/**
 * Folders and labels stay as rows when they are removed, so that they come back with their names. Where the name
 * was given to another one meanwhile, the one that comes back says so in its own. A folder that holds mail is in
 * use, and stays.
 */
const removable = (
  table: "folder" | "label",
  name: string,
  inUse: string,
): ThingTable<"folder"> & ThingTable<"label"> => ({
  async read(sql, person, keys) {
    const rows = await sql.unsafe<{ id: number }[]>(
      `select id from ${table} where person = $1 and not removed and id = any($2::text::int[])`,
      [person, numbers(keys)],
    );
    return rows.map(({ id }) => [String(id), true] as const);
  },
  async write(tx, person, edits) {
    const gone = absent(edits);
    const rows = await tx.unsafe<{ id: number }[]>(
      `update ${table} t set removed = true where person = $1 and id = any($2::text::int[]) and not (${inUse}) returning id`,
      [person, numbers(gone)],
    );
    const removed = new Set(rows.map(({ id }) => String(id)));
    for (const key of present(edits))
      await tx.unsafe(
        `update ${table} t set removed = false, ${name} = case when exists (
           select 1 from ${table} o where o.person = t.person and not o.removed and lower(o.${name}) = lower(t.${name}))
           then t.${name} || ' (brought back)' else t.${name} end
         where person = $1 and id = $2 and removed`,
        [person, Number(key)],
      );
    return gone.filter((key) => !removed.has(key));
  },
});

const TABLES: { readonly [K in ThingKind]: ThingTable<K> } = {
  task,
  contact,
  blocked,
  folder: removable(
    "folder",
    "path",
    "exists (select 1 from folder_count c where c.person = t.person and c.folder = t.id and c.total > 0)",
  ),
  label: removable("label", "name", "false"),
  held,
  pause,
  leaving,
  aside,
  listed,
  report,
  calendar,
  event,
};

const ofKind = <K extends ThingKind>(change: Change, kind: K): EditOf<K>[] =>
  [...change.things.values()].filter((edit): edit is EditOf<K> => edit.kind === kind);

async function readKind<K extends ThingKind>(
  sql: Queryable,
  person: PersonId,
  kind: K,
  change: Change,
  into: Map<ThingKey, ThingValue>,
): Promise<void> {
  const keys = ofKind(change, kind).map((edit) => edit.key);
  if (keys.length === 0) return;
  for (const [key, value] of await TABLES[kind].read(sql, person, keys)) into.set(thingKey({ kind, key }), value);
}

/** What is stored now for the things a change writes. Read it in the person's turn: nobody else writes things then. */
export async function readThings(
  sql: Queryable,
  person: PersonId,
  change: Change,
): Promise<(edit: ThingEdit) => ThingValue | null> {
  const found = new Map<ThingKey, ThingValue>();
  for (const kind of THING_KINDS) await readKind(sql, person, kind, change, found);
  return (edit) => found.get(thingKey(edit)) ?? null;
}

async function writeKind<K extends ThingKind>(
  tx: Transaction,
  person: PersonId,
  kind: K,
  change: Change,
): Promise<ThingKey[]> {
  const edits = ofKind(change, kind);
  if (edits.length === 0) return [];
  return (await TABLES[kind].write(tx, person, edits)).map((key) => thingKey({ kind, key }));
}

/** Writes the things of a change that was reconciled with what readThings read in this turn. @returns those left as they are */
export async function writeThings(tx: Transaction, person: PersonId, change: Change): Promise<ReadonlySet<ThingKey>> {
  const left: ThingKey[] = [];
  for (const kind of THING_KINDS) left.push(...(await writeKind(tx, person, kind, change)));
  return new Set(left);
}
