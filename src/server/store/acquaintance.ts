import { acquaintanceOf, type Acquaintance } from "@/core/deceit";
import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

interface Named {
  readonly name: string;
  readonly address: string;
}

/** Acquaintances of everybody's together that one process holds; each takes some 200 bytes. */
const MOST_HELD = 200_000;

interface Held {
  readonly stamp: string;
  readonly known: Acquaintance;
  /** How many they are. */
  readonly size: number;
}
/** Those that were asked for last come last. */
const held = new Map<PersonId, Held>();

/** Another one whenever any of what is read below is: thousands of correspondents are not to be read for each message. */
async function stampOf(sql: Queryable, person: PersonId): Promise<string> {
  const [row] = await sql<{ stamp: string }[]>`
    select concat_ws(' ',
      (select count(*) || ' ' || sum(hashtextextended(address || ' ' || name, 0)) from contact where person = ${person}),
      (select count(*) || ' ' || sum(hashtextextended(address, 0)) from written_to where person = ${person}),
      (select string_agg(address || ' ' || name, ' ' order by id) from identity where person = ${person}),
      (select address || ' ' || name from person where id = ${person}),
      (select string_agg(servers->'imap'->>'host', ' ' order by id) from account where person = ${person})) as stamp`;
  return row!.stamp;
}

async function read(sql: Queryable, person: PersonId, stamp: string): Promise<Held> {
  const [contacts, writtenTo, own, servers] = await Promise.all([
    sql<Named[]>`select name, address from contact where person = ${person}`,
    sql<{ address: string }[]>`select address from written_to where person = ${person}`,
    sql<Named[]>`
      select name, address from identity where person = ${person}
      union all select name, address from person where id = ${person}`,
    sql<{ host: string }[]>`
      select servers->'imap'->>'host' as host from account
      where person = ${person} and servers->'imap'->>'host' is not null`,
  ]);
  const known = acquaintanceOf({
    contacts,
    writtenTo: writtenTo.map(({ address }) => address),
    own,
    hosts: servers.map(({ host }) => host),
  });
  return { stamp, known, size: contacts.length + writtenTo.length };
}

/** Those that were not asked for the longest make room. */
function makeRoom(): void {
  let size = [...held.values()].reduce((sum, one) => sum + one.size, 0);
  for (const [oldest, one] of held) {
    if (size <= MOST_HELD) break;
    held.delete(oldest);
    size -= one.size;
  }
}

/** Whom a person knows, and which servers their mail comes through: what mail is looked at by. */
export async function readAcquaintance(sql: Queryable, person: PersonId): Promise<Acquaintance> {
  const stamp = await stampOf(sql, person);
  const before = held.get(person);
  // Written between the two looks, it has another stamp the next time.
  const now = before?.stamp === stamp ? before : await read(sql, person, stamp);
  held.delete(person);
  held.set(person, now);
  if (now !== before) makeRoom();
  return now.known;
}
