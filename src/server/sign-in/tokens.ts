import type { Scope } from "@/core/api";
import type { PersonId } from "@/core/id";
import { noteIfItCan, type Database } from "../db";
import { tell } from "../store";
import { newToken, readToken } from "./token";

/** That it is used is noted so often at most. */
const NOTED_EVERY_S = 60;

interface NewToken {
  readonly name: string;
  readonly scopes: readonly Scope[];
  /** How long it lasts; null until it is ended. */
  readonly days: number | null;
}

/** @returns what the program is to hold */
export async function makeToken(
  { sql }: Database,
  person: PersonId,
  { name, scopes, days }: NewToken,
): Promise<string> {
  const { hash, text } = newToken(person);
  await sql`insert into token (person, hash, name, scopes, ends_at)
    values (${person}, ${hash}, ${name}, ${[...new Set(scopes)].join(" ")}, now() + make_interval(days => ${days}::int))`;
  return text;
}

export interface TokenHolder {
  readonly person: PersonId;
  /** IANA name. */
  readonly zone: string;
  readonly scopes: readonly Scope[];
}

/** Whose token that is; null where it is none any more. */
export async function whoseToken({ sql }: Database, text: string): Promise<TokenHolder | null> {
  const token = readToken(text);
  if (!token) return null;
  const [row] = await sql<{ id: string; person: PersonId; zone: string; scopes: string; isOld: boolean }[]>`
    select t.id, t.person, p.zone, t.scopes,
      coalesce(t.used_at < now() - make_interval(secs => ${NOTED_EVERY_S}), true) as "isOld"
    from token t join person p on p.id = t.person
    where t.person = ${token.person} and t.hash = ${token.hash} and (t.ends_at is null or t.ends_at > now())`;
  if (!row) return null;
  const { id, person, zone, scopes } = row;
  if (row.isOld) await noteIfItCan(sql`update token set used_at = now() where person = ${person} and id = ${id}`);
  return { person, zone, scopes: scopes.split(" ") as Scope[] };
}

interface TokenRow {
  readonly id: string;
  readonly name: string;
  readonly scopes: Scope[];
  readonly created: number;
  readonly used: number | null;
  readonly ends: number | null;
}

/** Times in milliseconds since 1970. */
export async function listTokens({ sql }: Database, person: PersonId): Promise<TokenRow[]> {
  const rows = await sql<(Omit<TokenRow, "scopes"> & { scopes: string })[]>`
    select id, name, scopes, (extract(epoch from created_at) * 1000)::float8 as created,
      (extract(epoch from used_at) * 1000)::float8 as used, (extract(epoch from ends_at) * 1000)::float8 as ends
    from token where person = ${person} and (ends_at is null or ends_at > now()) order by created_at desc, id`;
  return rows.map((row) => ({ ...row, scopes: row.scopes.split(" ") as Scope[] }));
}

export async function endToken({ sql }: Database, person: PersonId, id: string): Promise<boolean> {
  const ended = await sql`delete from token where person = ${person} and id = ${id} returning id`;
  // What it listens to ends with it.
  if (ended.length > 0) await tell(sql, person, "sessions");
  return ended.length > 0;
}
