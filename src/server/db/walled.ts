import { drizzle } from "drizzle-orm/postgres-js";
import type postgres from "postgres";
import type { PersonId } from "@/core/id";
import { isOfEarlier, NOBODY, openPool, type Connection, type Database, type Orm, type Transaction } from "./client";

/**
 * The second wall: the database itself shows each person's rows to nobody else, whatever a statement forgets to say.
 * Requests come as a role that sees a row only where the connection says, in `tachyne.person`, that its person is the
 * one that asks (migration 0033). What works for everybody, jobs and tools, comes as the owner of the tables.
 */

/** The role of requests: it has no login of its own, but whoever has the tables may take it. */
export const WEB_ROLE = "tachyne_web";
/** Where views stand in for what no policy can be put on. */
const WEB_PATH = "wall, public";

/** What the driver has for its own transactions: a statement that is told of the connection it went to. */
interface Told {
  readonly execute: (query: Sent) => boolean;
}
interface Sent {
  handler: (query: Sent) => void;
  readonly reject: (error: unknown) => void;
}

/** A pool where each statement says whose it is, right before it and on the same connection. */
function tagged(pool: Connection, connections: number, person: number): Connection {
  const say = (scope: string) => `set ${scope} tachyne.person = ${person}`;
  const send = async (query: Sent): Promise<void> => {
    for (let isSent = false, left = connections; !isSent; left--) {
      const onexecute = (connection: Told): boolean => {
        isSent = true;
        return connection.execute(query);
      };
      try {
        await pool.unsafe(say("session"), [], { simple: true, onexecute } as postgres.UnsafeQueryOptions);
      } catch (error) {
        // Where it was sent it is told by itself what became of its connection.
        if (!isSent && (left === 0 || !isOfEarlier(error))) return query.reject(error);
      }
    }
  };
  const routed = <T>(query: T): T => {
    (query as unknown as Sent).handler = (sent) => void send(sent);
    return query;
  };
  const begin: Connection["begin"] = async (...given: unknown[]) => {
    const work = given.at(-1) as (tx: Transaction) => Promise<unknown>;
    const options = given.length > 1 ? String(given[0]) : "";
    return (await pool.begin(options, (tx) => {
      // Goes before what comes next, and need not be waited for: where it fails, so does the transaction.
      void tx.unsafe(say("local")).catch(() => undefined);
      return work(tx);
    })) as never;
  };
  const reserve: Connection["reserve"] = async () => {
    const own = await pool.reserve();
    void own.unsafe(say("session")).catch(() => undefined);
    return own;
  };
  const own = { unsafe: (...given: Parameters<Connection["unsafe"]>) => routed(pool.unsafe(...given)), begin, reserve };
  return new Proxy(pool, {
    // Names, values and lists are no statements.
    apply: (_, __, given: [{ raw?: unknown }]) => {
      const made = (pool as unknown as (...given: unknown[]) => object)(...given);
      return given[0]?.raw ? routed(made) : made;
    },
    get: (target, name) => own[name as keyof typeof own] ?? Reflect.get(target, name),
  });
}

/** From here on a transaction of nobody's is the person's it has just made. */
export const become = async (tx: Transaction, person: PersonId): Promise<void> => {
  await tx.unsafe(`set local tachyne.person = ${Number(person)}`);
};

/**
 * A pool for requests. What it is asked as it is sees how people come in; `as` gives it to one of them.
 * @param url as openDatabase takes it
 */
export function openWalled(url: string, connections = 10): Database {
  // A statement has its connection to itself until it is done: those of two people never stand in one line.
  const pool = openPool(url, connections, { max_pipeline: 1 }, { role: WEB_ROLE, search_path: WEB_PATH });
  const close = () => pool.end({ timeout: 2 });
  const of = (person: number): Database => {
    const sql = tagged(pool, connections, person);
    let orm: Orm | null = null;
    return {
      sql,
      // Most requests have no use for it.
      get orm() {
        return (orm ??= drizzle(sql as postgres.Sql));
      },
      as: of,
      close,
    };
  };
  return of(NOBODY);
}
