import type { SimulatorShape } from "@/core/api";
import type { PersonId } from "@/core/id";
import type { Connection, Database, Transaction } from "../db";
import { GatewayAway, type Gateway, type Pulled } from "./gateway";

/**
 * The simulated service: a mail service that ships with the app, behind the same interface as a real one. What it
 * holds lies in tables of its own, so that any process can be the service and none has to be.
 */

/** Writes the n-th message that comes to the person, as it is at that time: the same for the same number and time. */
export type Correspondent = (n: number, at: Date) => Uint8Array;

const HOUR_MS = 3_600_000;
/** After a time in which nothing ran, no more than this many come: the rest was never written. */
const MOST_AT_ONCE = 20;
const PIECE = 50;
const SLOW_MS = 4000;

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

export function simulatedGateway(sql: Connection, person: PersonId, account: number): Gateway {
  return {
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

async function deliver(tx: Transaction, due: Due, write: Correspondent, nowMs: number): Promise<number> {
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

/**
 * Puts into the service's mailboxes what has come to them by now. A service that is away receives mail like any
 * other; it is asked for it once it is back.
 * @returns how many messages
 */
export async function receiveDue(db: Database, now: Date, write: Correspondent): Promise<number> {
  let count = 0;
  for (let more = true; more;)
    more = (await db.sql.begin(async (sql) => {
      const tx = sql as Transaction;
      const [due] = await tx.unsafe<Due[]>(
        `select person, account, rate, made, asked, (extract(epoch from next_at) * 1000)::float8 as next
         from simulator where ${DUE} limit 1 for update skip locked`,
        [now.getTime()],
      );
      if (due) count += await deliver(tx, due, write, now.getTime());
      return due !== undefined;
    })) as boolean;
  return count;
}
