import type { Servers } from "@/core/api";
import type { PersonId } from "@/core/id";
import type { Connection, Queryable, Transaction } from "../db";
import type { Gateway } from "./gateway";
import { simulatedGateway } from "./simulated";

/** A person's account with a mail service. */
export interface Account {
  readonly person: PersonId;
  readonly id: number;
  readonly kind: "simulated" | "internet";
  /** What the person calls it, else its address. */
  readonly name: string;
  readonly mark: number;
  readonly failures: number;
}

/** An account with servers of its own, and what opens them. */
export interface ServerAccount extends Account {
  readonly kind: "internet";
  readonly servers: Servers;
  readonly secret: Uint8Array;
  /** Paths of folders on the server that are left alone. */
  readonly without: readonly string[];
  /** Mail from before is left on the server; milliseconds since 1970, null for all of it. */
  readonly since: number | null;
  /** When the person asked for new mail; milliseconds since 1970. */
  readonly lookAt: number | null;
}

const COLUMNS = "person, id, kind, coalesce(nullif(name, ''), nullif(address, ''), kind) as name, mark, failures";

/** What a secret belongs to: sealed for one account, it opens for no other. */
export const aboutSecret = (person: PersonId, account: number): string => `account ${person} ${account}`;

/** The service behind an account that ships with the app. */
export const gatewayOf = (sql: Connection, { person, id }: Account): Gateway => simulatedGateway(sql, person, id);

/** Accounts of one person, or of everybody, that are reached by IMAP and SMTP and are not paused. */
export const serverAccounts = (sql: Queryable, person: PersonId | null, id: number | null): Promise<ServerAccount[]> =>
  sql<ServerAccount[]>`
    select ${sql.unsafe(COLUMNS)}, servers, secret, without, (extract(epoch from since) * 1000)::float8 as since,
      (extract(epoch from look_at) * 1000)::float8 as "lookAt"
    from account where kind = 'internet' and (${person}::bigint is null or person = ${person})
      and (${id}::int is null or id = ${id}) and (not is_paused or ${id !== null}) order by person, id`;

/** An account by its number; where it is not there any more, another one of the person's. */
export async function findAccount(sql: Queryable, person: PersonId, id: number | null): Promise<Account | null> {
  const [row] = await sql<Account[]>`
    select ${sql.unsafe(COLUMNS)} from account where person = ${person}
    order by (id = ${id}::int) desc nulls last, id limit 1`;
  return row ?? null;
}

/** Accounts of the simulated kind that have mail to be taken in, or that are to be asked again after trouble. */
export const accountsToAsk = (sql: Queryable, now: Date): Promise<Account[]> =>
  sql<Account[]>`
    select ${sql.unsafe(COLUMNS)} from account a
    where kind = 'simulated' and retry_at <= ${now.toISOString()} and (trouble is not null or exists (
      select 1 from simulated_mail m where m.person = a.person and m.account = a.id and m.uid > a.mark))`;

/** The longest time before a service that cannot be asked is asked again. */
const LONGEST_PAUSE_MS = 60_000;

/** Notes that the service could not be asked: each time in a row it is asked a little later. */
export async function noteTrouble(
  sql: Queryable,
  { person, id, failures }: Pick<Account, "person" | "id" | "failures">,
  why: string,
  now: Date,
) {
  const pauseMs = Math.min(LONGEST_PAUSE_MS, 1000 * 2 ** Math.min(failures, 10));
  await sql`
    update account set trouble = ${why}, failures = failures + 1, retry_at = ${new Date(now.getTime() + pauseMs).toISOString()}
    where person = ${person} and id = ${id}`;
}

/** Notes that it answered. */
export const noteWell = (sql: Queryable, { person, id }: Account) =>
  sql`update account set trouble = null, failures = 0, asked_at = now() where person = ${person} and id = ${id}`;

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
    insert into account (person, kind, name) select ${person}, 'simulated', 'simulated'
    where not exists (select 1 from account where person = ${person} and kind = 'simulated') returning id`;
  if (made) await tx`insert into simulator (person, account, rate) values (${person}, ${made.id}, ${rate})`;
}
