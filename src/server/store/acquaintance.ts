import { acquaintanceOf, type Acquaintance } from "@/core/deceit";
import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

interface Named {
  readonly name: string;
  readonly address: string;
}

/** Whom a person knows, and which servers their mail comes through: what mail is looked at by. */
export async function readAcquaintance(sql: Queryable, person: PersonId): Promise<Acquaintance> {
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
