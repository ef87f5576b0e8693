import { acquaintanceOf, type Acquaintance } from "@/core/deceit";
import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

interface Named {
  readonly name: string;
  readonly address: string;
}

/** So many people's acquaintances are held by one process. */
const MOST_HELD = 8;
const held = new Map<PersonId, { readonly stamp: string; readonly known: Acquaintance }>();

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

async function read(sql: Queryable, person: PersonId): Promise<Acquaintance> {
  const contacts = await sql<Named[]>`select name, address from contact where person = ${person}`;
  const writtenTo = await sql<{ address: string }[]>`select address from written_to where person = ${person}`;
  const own = await sql<Named[]>`
    select name, address from identity where person = ${person}
    union all select name, address from person where id = ${person}`;
  const servers = await sql<{ host: string }[]>`
    select servers->'imap'->>'host' as host from account
    where person = ${person} and servers->'imap'->>'host' is not null`;
  return acquaintanceOf({
    contacts,
    writtenTo: writtenTo.map(({ address }) => address),
    own,
    hosts: servers.map(({ host }) => host),
  });
}

/** Whom a person knows, and which servers their mail comes through: what mail is looked at by. */
export async function readAcquaintance(sql: Queryable, person: PersonId): Promise<Acquaintance> {
  const stamp = await stampOf(sql, person);
  const before = held.get(person);
  // Written between the two looks, it has another stamp the next time.
  const known = before?.stamp === stamp ? before.known : await read(sql, person);
  held.delete(person);
  held.set(person, { stamp, known });
  for (const oldest of held.keys()) {
    if (held.size <= MOST_HELD) break;
    held.delete(oldest);
  }
  return known;
}
