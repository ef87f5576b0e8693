import type { PersonId } from "@/core/id";
import type { Connection, Queryable, Transaction } from "../db";
import type { Gateway } from "./gateway";
import { simulatedGateway } from "./simulated";

/** A person's account with a mail service. */
export interface Account {
  readonly person: PersonId;
  readonly id: number;
  readonly mark: number;
  readonly failures: number;
}

/** The service behind an account; so far there is one kind. */
export const gatewayOf = (sql: Connection, { person, id }: Account): Gateway => simulatedGateway(sql, person, id);

/** An account by its number; the person's first one where it has none. */
export async function findAccount(sql: Queryable, person: PersonId, id: number | null): Promise<Account | null> {
  const [row] = await sql<Account[]>`
    select person, id, mark, failures from account
    where person = ${person} and (${id}::int is null or id = ${id}) order by id limit 1`;
  return row ?? null;
}

/** Accounts that have mail to be taken in, or that are to be asked again after trouble. */
export const accountsToAsk = (sql: Queryable, now: Date): Promise<Account[]> =>
  sql<Account[]>`
    select person, id, mark, failures from account a
    where retry_at <= ${now.toISOString()} and (trouble is not null or exists (
      select 1 from simulated_mail m where m.person = a.person and m.account = a.id and m.uid > a.mark))`;

/** The longest time before a service that cannot be asked is asked again. */
const LONGEST_PAUSE_MS = 60_000;

/** Notes that the service could not be asked: each time in a row it is asked a little later. */
export async function noteTrouble(sql: Queryable, { person, id, failures }: Account, why: string, now: Date) {
  const pauseMs = Math.min(LONGEST_PAUSE_MS, 1000 * 2 ** Math.min(failures, 10));
  await sql`
    update account set trouble = ${why}, failures = failures + 1, retry_at = ${new Date(now.getTime() + pauseMs).toISOString()}
    where person = ${person} and id = ${id}`;
}

/** Notes that it answered. */
export const noteWell = (sql: Queryable, { person, id }: Account) =>
  sql`update account set trouble = null, failures = 0 where person = ${person} and id = ${id} and trouble is not null`;

/**
 * Moves the mark, in the transaction that takes the mail in.
 * @returns whether it stood where the mail was asked from; where not, another process has taken the mail in
 */
export async function moveMark(tx: Transaction, { person, id }: Account, from: number, to: number): Promise<boolean> {
  const rows = await tx`
    update account set mark = ${to} where person = ${person} and id = ${id} and mark = ${from} returning id`;
  return rows.length === 1;
}

/** Gives a person the simulated service, once. @param rate messages an hour that come by themselves */
export async function ensureSimulated(tx: Transaction, person: PersonId, rate: number): Promise<void> {
  const [made] = await tx<{ id: number }[]>`
    insert into account (person, kind) select ${person}, 'simulated'
    where not exists (select 1 from account where person = ${person} and kind = 'simulated') returning id`;
  if (made) await tx`insert into simulator (person, account, rate) values (${person}, ${made.id}, ${rate})`;
}
