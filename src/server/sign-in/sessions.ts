import type { SessionWay } from "@/core/api";
import type { PersonId } from "@/core/id";
import { noteIfItCan, type Database, type Queryable } from "../db";
import { tell } from "../store";
import { newToken, readToken } from "./token";

/** A session ends when it was not used for so long, */
const UNUSED_DAYS = 30;
/** and after so long in any case. */
export const LONGEST_DAYS = 180;
/** That it is used is noted so often at most. */
const NOTED_EVERY_S = 600;
const LONGEST_AGENT = 300;

export interface Session {
  readonly person: PersonId;
  readonly id: string;
  /** IANA name. */
  readonly zone: string;
}

/** @param way how the person came in @param agent what the browser calls itself @returns what the browser is to hold */
export async function openSession(sql: Queryable, person: PersonId, way: SessionWay, agent: string): Promise<string> {
  const { hash, text } = newToken(person);
  await sql`insert into session (person, hash, way, agent, ends_at)
    values (${person}, ${hash}, ${way}, ${agent.slice(0, LONGEST_AGENT)}, now() + make_interval(days => ${UNUSED_DAYS}))`;
  return text;
}

/** Whose session that is; null where it is none any more. */
export async function whose({ sql }: Database, text: string): Promise<Session | null> {
  const token = readToken(text);
  if (!token) return null;
  const [row] = await sql<(Session & { isOld: boolean })[]>`
    select s.person, s.id, p.zone, s.seen_at < now() - make_interval(secs => ${NOTED_EVERY_S}) as "isOld"
    from session s join person p on p.id = s.person
    where s.person = ${token.person} and s.hash = ${token.hash} and s.ends_at > now()`;
  if (!row) return null;
  const { person, id, zone } = row;
  if (row.isOld)
    await noteIfItCan(sql`update session set seen_at = now(),
        ends_at = least(now() + make_interval(days => ${UNUSED_DAYS}), created_at + make_interval(days => ${LONGEST_DAYS}))
      where person = ${person} and id = ${id}`);
  return { person, id, zone };
}

/** For so long somebody who showed who they are is taken to sit there still. */
const PROVED_S = 600;

/** Whether whoever sits there has shown of late who they are. */
export async function isProved({ sql }: Database, person: PersonId, id: string): Promise<boolean> {
  const rows = await sql`select 1 from session
    where person = ${person} and id = ${id} and proved_at > now() - make_interval(secs => ${PROVED_S})`;
  return rows.length > 0;
}

/** They have just done so. */
export async function noteProved({ sql }: Database, person: PersonId, id: string): Promise<void> {
  await sql`update session set proved_at = now() where person = ${person} and id = ${id}`;
}

export interface SessionRow {
  readonly id: string;
  readonly way: SessionWay;
  readonly agent: string;
  readonly created: number;
  readonly seen: number;
}

/** Where a person is signed in, what was used last first; times in milliseconds since 1970. */
export const listSessions = ({ sql }: Database, person: PersonId): Promise<SessionRow[]> =>
  sql<SessionRow[]>`
    select id, way, agent, (extract(epoch from created_at) * 1000)::float8 as created,
      (extract(epoch from seen_at) * 1000)::float8 as seen
    from session where person = ${person} and ends_at > now() order by seen_at desc, created_at desc`;

/** @returns whether there was one; its windows are told */
export async function endSession({ sql }: Database, person: PersonId, id: string): Promise<boolean> {
  const ended = await sql`delete from session where person = ${person} and id = ${id} returning id`;
  if (ended.length > 0) await tell(sql, person, "sessions");
  return ended.length > 0;
}

/** Ends all but one. @returns how many */
export async function endOthers({ sql }: { readonly sql: Queryable }, person: PersonId, but: string): Promise<number> {
  const ended = await sql`delete from session where person = ${person} and id <> ${but} returning id`;
  if (ended.length > 0) await tell(sql, person, "sessions");
  return ended.length;
}
