import type { z } from "zod";
import type {
  contactPatch,
  ContactShape,
  CorrespondentShape,
  groupPatch,
  GroupShape,
  newContact,
  newGroup,
} from "@/core/api";
import { changeOf, type Contact, type ThingEdit } from "@/core/change";
import { isAddress } from "@/core/letter";
import type { Queryable } from "../db";
import { inTurn, notFound, Refusal } from "../run";
import { tell } from "../store";
import { writeByHand } from "./by-hand";
import type { Context } from "./context";
import { orTaken } from "./taken";
import { bringBack, takeOut } from "./taken-out";

/** People one writes to: those that were kept, and those that mail has gone to. */

export const MOST_CONTACTS = 10_000;
/** Of a group. */
export const MOST_MEMBERS = 1000;

type Row = Omit<ContactShape, "last"> & { readonly last_ms: number | null };
const dated = <T extends { last_ms: number | null }>({ last_ms, ...row }: T) => ({
  ...row,
  last: last_ms === null ? null : new Date(last_ms).toISOString(),
});

export const contactsOf = async (sql: Queryable, person: number, address: string | null): Promise<ContactShape[]> =>
  (
    await sql<Row[]>`
      select c.address, c.name, c.note, coalesce(w.times, 0) as times, (extract(epoch from w.last) * 1000)::float8 as last_ms
      from contact c left join written_to w on w.person = c.person and w.address = c.address
      where c.person = ${person} and (${address}::text is null or c.address = ${address})
      order by lower(c.name), c.address limit ${MOST_CONTACTS}`
  ).map(dated);

export const listContacts = ({ db, person }: Context): Promise<ContactShape[]> => contactsOf(db.sql, person, null);

export const groupsOf = (sql: Queryable, person: number): Promise<GroupShape[]> =>
  sql<GroupShape[]>`select id, name, members from contact_group where person = ${person} order by lower(name)`;

export const listGroups = ({ db, person }: Context): Promise<GroupShape[]> => groupsOf(db.sql, person);

/** So many are offered for completing addresses; beyond them nobody remembers whom they wrote to. */
const MOST_OFFERED = 3000;

/** Whom one may mean: contacts, and whom mail has gone to; who was written to often and lately comes first. */
export async function listCorrespondents({ db, person }: Context) {
  const rows = await db.sql<(Omit<CorrespondentShape, "last"> & { last_ms: number | null })[]>`
    select coalesce(w.address, c.address) as address, coalesce(nullif(c.name, ''), w.name, '') as name,
      coalesce(w.times, 0) as times, (extract(epoch from w.last) * 1000)::float8 as last_ms, c.address is not null as contact
    from (select * from written_to where person = ${person}) w
      full join (select * from contact where person = ${person}) c on c.address = w.address
    order by ln(1 + coalesce(w.times, 0)) - extract(epoch from now() - coalesce(w.last, 'epoch')) / 7776000 desc, 1
    limit ${MOST_OFFERED}`;
  return { people: rows.map(dated), groups: await groupsOf(db.sql, person) };
}

export const valueOf = ({ name, note }: ContactShape): Contact => ({ name, note });

export function cleanAddress(written: string): string {
  const address = written.trim().toLowerCase();
  if (!isAddress(address))
    throw new Refusal(
      422,
      "Not an address",
      `"${written}" cannot be an address. Write one such as ines@larch.example.`,
    );
  return address;
}

const found = async (sql: Queryable, person: number, address: string): Promise<ContactShape> => {
  const [contact] = await contactsOf(sql, person, address);
  if (!contact) throw notFound("contact", address);
  return contact;
};

/** Keeps somebody; who is kept already gets the name and the note. */
export async function createContact(context: Context, body: z.infer<typeof newContact>): Promise<ContactShape> {
  const { db, person } = context;
  const address = cleanAddress(body.address);
  return inTurn(db, person, async (tx, seq) => {
    const [old] = await contactsOf(tx, person, address);
    const edit: ThingEdit = {
      kind: "contact",
      key: address,
      about: null,
      before: old ? valueOf(old) : null,
      after: { name: body.name, note: body.note || (old?.note ?? "") },
    };
    const said = { name: `Contact: ${body.name || address}`, about: address, messages: 0 };
    await writeByHand(tx, context, seq, changeOf([], [edit]), said);
    return found(tx, person, address);
  });
}

/** Changes somebody, or merges them into somebody else: groups follow, and notes are put together. */
export async function changeContact(
  context: Context,
  written: string,
  { name, note, into }: z.infer<typeof contactPatch>,
): Promise<ContactShape> {
  const { db, person } = context;
  const address = written.toLowerCase();
  return inTurn(db, person, async (tx, seq) => {
    const old = await found(tx, person, address);
    const edit = (key: string, before: ContactShape, after: Contact | null): ThingEdit => ({
      kind: "contact",
      key,
      about: null,
      before: valueOf(before),
      after,
    });
    let kept = address;
    let edits = [edit(address, old, { name: name ?? old.name, note: note ?? old.note })];
    if (into !== undefined) {
      kept = cleanAddress(into);
      if (kept === address) throw new Refusal(422, "The same", "Choose somebody else to merge it into.");
      const other = await found(tx, person, kept);
      const notes = [other.note, old.note].filter(Boolean).join("\n");
      edits = [edit(address, old, null), edit(kept, other, { name: other.name, note: notes })];
      await tx`
        update contact_group set members = array(select distinct m from unnest(array_replace(members, ${address}, ${kept})) m)
        where person = ${person} and ${address} = any(members)`;
    }
    const said = {
      name: into ? `Merge ${address} into ${kept}` : `Contact: ${name ?? old.name}`,
      about: address,
      messages: 0,
    };
    await writeByHand(tx, context, seq, changeOf([], edits), said);
    return found(tx, person, kept);
  });
}

export async function deleteContact(context: Context, written: string): Promise<void> {
  const { db, person } = context;
  const address = written.toLowerCase();
  await inTurn(db, person, async (tx, seq) => {
    const old = await found(tx, person, address);
    const { name } = old;
    const edit: ThingEdit = { kind: "contact", key: address, about: null, before: valueOf(old), after: null };
    const said = { name: `No contact: ${name || address}`, about: address, messages: 0 };
    await writeByHand(tx, context, seq, changeOf([], [edit]), said);
  });
}

const members = (list: readonly string[]): string[] => [...new Set(list.map(cleanAddress))];

export async function createGroup(context: Context, body: z.infer<typeof newGroup>): Promise<GroupShape> {
  const { db, person } = context;
  const who = members(body.members);
  return inTurn(db, person, async (tx) => {
    const [row] = await orTaken(
      "group",
      body.name,
      () => tx<GroupShape[]>`
        insert into contact_group (person, name, members) values (${person}, ${body.name}, ${who}::text[])
        returning id, name, members`,
    );
    await tell(tx, person, "settings");
    return row!;
  });
}

export async function changeGroup(context: Context, id: number, body: z.infer<typeof groupPatch>): Promise<GroupShape> {
  const { db, person } = context;
  const who = body.members === undefined ? null : members(body.members);
  return inTurn(db, person, async (tx) => {
    if (body.deleted === false) await bringBack(tx, "contact_group", person, id);
    const [row] = await orTaken(
      "group",
      body.name ?? "",
      () => tx<GroupShape[]>`
        update contact_group set name = coalesce(${body.name ?? null}, name), members = coalesce(${who}::text[], members)
        where person = ${person} and id = ${id} returning id, name, members`,
    );
    if (!row) throw notFound("group", id);
    await tell(tx, person, "settings");
    return row;
  });
}

export async function deleteGroup({ db, person }: Context, id: number): Promise<void> {
  await inTurn(db, person, async (tx) => {
    if (!(await takeOut(tx, "contact_group", person, id))) throw notFound("group", id);
    await tell(tx, person, "settings");
  });
}
