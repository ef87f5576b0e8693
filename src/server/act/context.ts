import type { Scope } from "@/core/api";
import type { Database } from "../db";
import type { Who } from "../run";
import { whose, whoseToken } from "../sign-in";

/** Who is asking, and what their requests run on. Every use case takes one. */
export interface Context extends Who {
  readonly db: Database;
  /** What a program may that asks for them; undefined for the person themselves, who may all. */
  readonly scopes?: readonly Scope[];
}

/**
 * For programs on this machine, which can read the database anyway: the person who signs in with an address, or the
 * first one.
 */
export async function personOf(db: Database, address: string | null): Promise<Context | null> {
  const [found] = await db.sql<Who[]>`
    select p.id as person, p.zone from person p left join sign_in s on s.person = p.id
    where ${address}::text is null or lower(coalesce(s.address, p.address)) = lower(${address})
    order by p.id limit 1`;
  return found ? { db, ...found } : null;
}

/** Whoever is asking, and the session they do it in. */
export interface Asking {
  readonly context: Context;
  /** Empty for a program, which no route lets near sessions. */
  readonly session: string;
}

/** A program that holds a token. @returns null for one that is none, or none any more */
export async function whichProgram(db: Database, token: string): Promise<Asking | null> {
  const found = await whoseToken(db, token);
  return found && { context: { db: db.as(found.person), ...found }, session: "" };
}

/** The one place that says who is asking. @param token what their browser holds @returns null for nobody */
export async function whoIsAsking(db: Database, token: string | null): Promise<Asking | null> {
  const found = token === null ? null : await whose(db, token);
  if (!found) return null;
  const { person, zone, id } = found;
  return { context: { db: db.as(person), person, zone }, session: id };
}
