import type { SimulatorShape } from "@/core/api";
import type { PersonId } from "@/core/id";
import type { Connection, Database, Transaction } from "../db";
import { deliver, type Behaviour, type Comes } from "./deliver";
import { GatewayAway, type Gateway, type Pulled } from "./gateway";

/**
 * The simulated service: a mail service that ships with the app, behind the same interface as a real one. What it
 * holds lies in tables of its own, so that any process can be the service and none has to be.
 */

/** A message the person sent, as somebody who got it may answer it. */
export interface Received {
  readonly recipient: string;
  /** Whom the answer goes to. */
  readonly from: string;
  readonly raw: Uint8Array;
}

/** Everybody who writes to the person. What is asked the same way is answered the same way. */
export interface Correspondents {
  /** Writes the n-th message that comes by itself, as it is at that time. */
  readonly write: (n: number, at: Date) => Uint8Array;
  /** Writes what comes back of something the person sent. */
  readonly answer: (comes: Comes, received: Received, at: Date) => Promise<Uint8Array>;
}

const HOUR_MS = 3_600_000;
/** After a time in which nothing ran, no more than this many come: the rest was never written. */
const MOST_AT_ONCE = 20;
const PIECE = 50;
const SLOW_MS = 4000;

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

export function simulatedGateway(sql: Connection, person: PersonId, account: number): Gateway {
  const behaviour = async (): Promise<Behaviour> => {
    const [service] = await sql<Behaviour[]>`
      select mode, answers::float8 as answers, bounces::float8 as bounces, answer_after as "answerAfter", utf8
      from simulator where person = ${person} and account = ${account}`;
    return service ?? { mode: "away", answers: 0, bounces: 0, answerAfter: 0, utf8: true };
  };
  return {
    async can() {
      return { utf8: (await behaviour()).utf8 };
    },
    async send(envelope, raw) {
      return deliver(sql, person, account, await behaviour(), envelope, raw);
    },
    async *pull(since) {
      const [service] = await sql<{ mode: SimulatorShape["mode"] }[]>`
        select mode from simulator where person = ${person} and account = ${account}`;
      if (service?.mode === "away") throw new GatewayAway("The simulated service is away.");
      if (service?.mode === "slow") await pause(SLOW_MS);
      for (let after = since; ;) {
        const rows = await sql<Pulled[]>`
          select raw, uid as mark from simulated_mail
          where person = ${person} and account = ${account} and uid > ${after} order by uid limit ${PIECE}`;
        const last = rows.at(-1);
        if (!last) return;
        yield rows;
        after = last.mark;
      }
    },
  };
}

interface Due {
  readonly person: PersonId;
  readonly account: number;
  readonly rate: number;
  readonly made: number;
  readonly asked: number;
  readonly next: number;
}

/** When the messages were written that are due by now. @returns them, oldest first, and when the next one comes */
function dueTimes({ rate, asked, next }: Pick<Due, "rate" | "asked" | "next">, nowMs: number) {
  const times: number[] = Array.from({ length: asked }, () => nowMs);
  if (rate <= 0) return { times, next };
  const gap = HOUR_MS / rate;
  const missed = Math.max(0, Math.floor((nowMs - next) / gap) + 1);
  const counted = Math.min(missed, MOST_AT_ONCE);
  for (let back = 0; back < counted; back++) times.unshift(next + (missed - 1 - back) * gap);
  return { times, next: next + missed * gap };
}

async function bring(tx: Transaction, due: Due, { write }: Correspondents, nowMs: number): Promise<number> {
  const { person, account, made } = due;
  const { times, next } = dueTimes(due, nowMs);
  for (const [i, ms] of times.entries())
    await tx`insert into simulated_mail (person, account, raw) values (${person}, ${account}, ${write(made + i, new Date(ms))})`;
  await tx`
    update simulator set made = made + ${times.length}, asked = 0, next_at = to_timestamp(${next}::float8 / 1000)
    where person = ${person} and account = ${account}`;
  return times.length;
}

const DUE = "(asked > 0 or (rate > 0 and next_at <= to_timestamp($1::float8 / 1000)))";

interface ComesBack extends Received {
  readonly id: number;
  readonly person: PersonId;
  readonly account: number;
  readonly comes: Comes;
  readonly at: number;
}

/** What comes back of what was sent, one by one: each row is claimed and done in one transaction. */
async function comeBack(db: Database, now: Date, { answer }: Correspondents): Promise<number> {
  let count = 0;
  for (let more = true; more;) {
    more = (await db.sql.begin(async (tx) => {
      const [row] = await tx<ComesBack[]>`
        select id, person, account, recipient, mail_from as from, raw, comes, (extract(epoch from comes_at) * 1000)::float8 as at
        from simulated_sent where comes_at <= ${now.toISOString()}::timestamptz
        order by comes_at limit 1 for update skip locked`;
      if (!row) return false;
      const { id, person, account, comes, at } = row;
      const raw = await answer(comes, row, new Date(at));
      await tx`insert into simulated_mail (person, account, raw) values (${person}, ${account}, ${raw})`;
      await tx`
        update simulated_sent set comes_at = null where person = ${person} and account = ${account} and id = ${id}`;
      return true;
    })) as boolean;
    if (more) count++;
  }
  return count;
}

/**
 * Puts into the service's mailboxes what has come to them by now. A service that is away receives mail like any
 * other; it is asked for it once it is back.
 * @returns how many messages
 */
export async function receiveDue(db: Database, now: Date, who: Correspondents): Promise<number> {
  let count = await comeBack(db, now, who);
  for (let more = true; more;)
    more = (await db.sql.begin(async (sql) => {
      const tx = sql as Transaction;
      const [due] = await tx.unsafe<Due[]>(
        `select person, account, rate, made, asked, (extract(epoch from next_at) * 1000)::float8 as next
         from simulator where ${DUE} limit 1 for update skip locked`,
        [now.getTime()],
      );
      if (due) count += await bring(tx, due, who, now.getTime());
      return due !== undefined;
    })) as boolean;
  return count;
}
