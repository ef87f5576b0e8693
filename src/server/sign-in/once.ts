import type { PersonId } from "@/core/id";
import type { Database, NOBODY, Queryable } from "../db";
import { newToken, readToken } from "./token";

/** In: signs its person in. Invitation: lets somebody begin with a mailbox of their own. */
export type OnceKind = "in" | "invitation";

/**
 * @param person whose it is; of an invitation, who invites, which is nobody where there is nobody yet
 * @returns the secret part of a link that works once, for so long
 */
export async function makeOnce(
  { sql }: Database,
  person: PersonId | typeof NOBODY,
  kind: OnceKind,
  minutes: number,
): Promise<string> {
  const { hash, text } = newToken(person);
  await sql`insert into once_link (person, hash, kind, ends_at)
    values (${person}, ${hash}, ${kind}, now() + make_interval(mins => ${minutes}))`;
  return text;
}

/** Uses it up. @returns whose it was; null for one that is unknown, used or over */
export async function takeOnce(sql: Queryable, text: string, kind: OnceKind): Promise<PersonId | typeof NOBODY | null> {
  const token = readToken(text);
  if (!token) return null;
  const [row] = await sql<{ person: PersonId | typeof NOBODY; good: boolean }[]>`
    delete from once_link where person = ${token.person} and hash = ${token.hash} and kind = ${kind}
    returning person, ends_at > now() as good`;
  return row?.good ? row.person : null;
}
