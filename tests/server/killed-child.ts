import { openDatabase, type Database } from "@/server/db";
import { ParsePool, sendDue, takeMail } from "@/server/jobs";

/**
 * A program that sends what is due, or takes mail in, and is killed in the middle: before the n-th thing it asks the
 * database. It is kill -9, so nothing of it has a chance to put anything in order.
 */
const [url, killAt] = [process.env.DATABASE_URL!, Number(process.env.KILL_AT)];
let asked = 0;

function step(): void {
  if (++asked !== killAt) return;
  process.kill(process.pid, "SIGKILL");
  // Whatever the signal takes to come, nothing more is done.
  Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0);
}

type Callable = (...args: unknown[]) => unknown;

function counting<T extends object>(sql: T): T {
  return new Proxy(sql, {
    apply(target, self, args: unknown[]) {
      step();
      return Reflect.apply(target as unknown as Callable, self, args) as unknown;
    },
    get(target, key) {
      const value = Reflect.get(target, key) as unknown;
      if (typeof value !== "function") return value;
      const own = (value as Callable).bind(target);
      if (key === "begin") return (work: (tx: object) => unknown) => own((tx: object) => work(counting(tx)));
      if (key === "reserve") return async () => counting((await own()) as object);
      if (key === "unsafe")
        return (...args: unknown[]) => {
          step();
          return own(...args);
        };
      return own;
    },
  });
}

const db = openDatabase(url, 4);
const watched: Database = { ...db, sql: counting(db.sql) };
const DEEDS: Readonly<Record<string, () => Promise<unknown>>> = {
  send: () => sendDue(watched, new Date()),
  take: () => takeMail(watched, () => new ParsePool(process.env.WORKER!, 1), new Date()),
};
await DEEDS[process.env.DEED!]!();
await db.close();
console.log(asked);
