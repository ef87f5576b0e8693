import type { PersonId } from "@/core/id";
import type { Database, Queryable, Transaction } from "../db";
import { takeTurn, toldAfterwards } from "../store";

/** Whose mail it is, and in which time zone their days begin. */
export interface Who {
  readonly person: PersonId;
  /** IANA name. */
  readonly zone: string;
}

/**
 * The only way to write: one transaction in the person's turn, so that what is read in it holds until it is
 * written. Names, macros and states are read through `tx`, never before.
 * @param work gets the number of the write; numbers that write nothing are left out
 */
export const inTurn = <T>(
  db: Database,
  person: PersonId,
  work: (tx: Transaction, seq: number) => Promise<T>,
): Promise<T> => toldAfterwards(db.sql, async (tx) => work(tx, await takeTurn(tx, person)));

/** A person with their time zone. */
export async function whoIs(sql: Queryable, person: PersonId): Promise<Who> {
  const [row] = await sql<{ zone: string }[]>`select zone from person where id = ${person}`;
  return { person, zone: row!.zone };
}

/** Everybody who has mail here. */
export async function everybody({ sql }: Pick<Database, "sql">): Promise<Who[]> {
  return sql<{ person: PersonId; zone: string }[]>`select id as person, zone from person order by id`;
}
