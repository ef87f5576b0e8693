import type { CardsAnswer, ContactShape } from "@/core/api";
import { readCards, writeCards, type CardGroup } from "@/core/card";
import { changeOf, type Contact, type ThingEdit } from "@/core/change";
import { cut, plural } from "@/core/text";
import type { Transaction } from "../db";
import { inTurn, Refusal } from "../run";
import { writeByHand } from "./by-hand";
import { contactsOf, groupsOf, MOST_CONTACTS, MOST_MEMBERS, valueOf } from "./contacts";
import type { Context } from "./context";

/** Contacts as files of cards, in and out. */

/** Bytes of a file of cards; pictures are most of it. */
export const MOST_CARD_BYTES = 20 * 1024 * 1024;
const LONGEST_NAME = 200;
const LONGEST_NOTE = 5000;
const LONGEST_GROUP = 80;
const MOST_LEFT_SHOWN = 100;

export async function exportCards({ db, person }: Context, version: 3 | 4): Promise<string> {
  const people = (await contactsOf(db.sql, person, null)).map(({ address, name, note }) => ({
    name,
    addresses: [address],
    note,
  }));
  return writeCards(people, await groupsOf(db.sql, person), version);
}

/** What is here stays: only an empty name is filled in, and a note goes on with what it does not say yet. */
function joined(old: Contact, read: Contact): Contact {
  const goesOn = read.note !== "" && !old.note.includes(read.note);
  return {
    name: old.name || read.name,
    note: goesOn ? cut([old.note, read.note].filter(Boolean).join("\n"), LONGEST_NOTE) : old.note,
  };
}

/** What becomes of each address: those of one card are as many contacts, and the first has the note. */
function wantedOf(cards: ReturnType<typeof readCards>, here: ReadonlyMap<string, Contact>): Map<string, Contact> {
  const wanted = new Map<string, Contact>();
  for (const { name, addresses, note } of cards.people)
    for (const [i, address] of addresses.entries()) {
      const read = { name: cut(name, LONGEST_NAME), note: i === 0 ? cut(note, LONGEST_NOTE) : "" };
      const old = wanted.get(address) ?? here.get(address);
      wanted.set(address, old ? joined(old, read) : read);
    }
  return wanted;
}

/** @returns how many groups were made or have new members */
async function joinGroups(tx: Transaction, person: number, groups: readonly CardGroup[]): Promise<number> {
  const here = new Map((await groupsOf(tx, person)).map((group) => [group.name.toLowerCase(), group]));
  let count = 0;
  for (const { name: written, members } of groups) {
    const name = cut(written, LONGEST_GROUP).trim();
    const old = here.get(name.toLowerCase());
    const all = [...new Set([...(old?.members ?? []), ...members])].slice(0, MOST_MEMBERS);
    if (old && all.length === old.members.length) continue;
    await (old
      ? tx`update contact_group set members = ${all}::text[] where person = ${person} and id = ${old.id}`
      : tx`insert into contact_group (person, name, members) values (${person}, ${name}, ${all}::text[])`);
    count++;
  }
  return count;
}

/** Takes in a file of cards: one entry of the ledger for all contacts, so that undo takes them back. @throws Refusal */
export async function importCards(context: Context, text: string): Promise<CardsAnswer> {
  const { db, person } = context;
  const cards = readCards(text);
  if (cards.people.length + cards.groups.length + cards.left.length === 0)
    throw new Refusal(
      422,
      "No cards",
      "The file holds no cards. Choose one in vCard 3 or 4, which mostly end in .vcf.",
    );
  return inTurn(db, person, async (tx, seq) => {
    const here = new Map<string, ContactShape>();
    for (const one of await contactsOf(tx, person, null)) here.set(one.address, one);
    const wanted = wantedOf(cards, here);
    const fresh = [...wanted.keys()].filter((address) => !here.has(address)).length;
    if (here.size + fresh > MOST_CONTACTS)
      throw new Refusal(422, "Too many contacts", `There can be ${plural(MOST_CONTACTS, "contact")}. Split the file.`);
    const edits: ThingEdit[] = [];
    for (const [address, after] of wanted) {
      const old = here.get(address);
      const before = old ? valueOf(old) : null;
      if (before?.name === after.name && before.note === after.note) continue;
      edits.push({ kind: "contact", key: address, about: null, before, after });
    }
    const groups = await joinGroups(tx, person, cards.groups);
    const name = `Contacts from a file: ${plural(edits.length, "contact")}`;
    await writeByHand(tx, context, seq, changeOf([], edits), { name, about: "", messages: 0 });
    return {
      kept: fresh,
      changed: edits.length - fresh,
      same: wanted.size - edits.length,
      groups,
      left: cards.left.slice(0, MOST_LEFT_SHOWN).map((one) => ({ name: one.name, why: one.why })),
      leftCount: cards.left.length,
    };
  });
}
