import type { PersonId } from "@/core/id";
import type { Queryable } from "../db";

/** Whom a person writes as. */
export interface Identity {
  readonly id: number;
  readonly name: string;
  readonly address: string;
  readonly signature: string;
}

/** In the person's order; the first is the usual one. */
export async function readIdentities(sql: Queryable, person: PersonId): Promise<Identity[]> {
  const rows = await sql<Identity[]>`
    select id, name, address, signature from identity where person = ${person} order by position, id`;
  if (rows.length > 0) return rows;
  return sql<Identity[]>`select 0 as id, name, address, '' as signature from person where id = ${person}`;
}

/** The one a message came to, else the usual one. @param via addresses of the person's */
export function identityFor(identities: readonly Identity[], via: readonly string[]): Identity {
  const came = via.map((address) => address.toLowerCase());
  return (
    identities.find(({ address }) => came.includes(address.toLowerCase())) ??
    identities[0] ?? { id: 0, name: "", address: "nobody@localhost", signature: "" }
  );
}
