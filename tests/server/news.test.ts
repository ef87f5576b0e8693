import postgres from "postgres";
import { afterAll, afterEach, beforeAll, expect, test, vi } from "vitest";
import { eventsFor, type Event } from "@/server/act";
import { inTurn } from "@/server/run";
import { CHANNEL, tell } from "@/server/store";
import { freshDatabase, type Fresh } from "./database";

/** When windows are told of what was written, and what becomes of a notice that is lost. */
let fresh: Fresh;
let ear: postgres.Sql;
const heard: string[] = [];
beforeAll(async () => {
  fresh = await freshDatabase();
  ear = postgres(fresh.url, { max: 1, onnotice: () => {} });
  await ear.listen(CHANNEL, (payload) => heard.push(payload));
});
afterAll(async () => {
  await ear.end();
  await fresh.drop();
});
afterEach(() => {
  vi.useRealTimers();
  heard.length = 0;
});

/** Whatever was told before this is heard by the time it is. */
async function mark(): Promise<void> {
  await fresh.db.sql`select pg_notify(${CHANNEL}, 'mark')`;
  await vi.waitFor(() => expect(heard).toContain("mark"));
}

test("nothing is told in the middle of a turn, and each thing once when it is over", async () => {
  const { context } = fresh;
  await inTurn(context.db, context.person, async (tx) => {
    await tell(tx, context.person, "settings");
    await tell(tx, context.person, "outgoing");
    await tell(tx, context.person, "settings");
    await mark();
    expect(heard).toEqual(["mark"]);
  });
  await vi.waitFor(() => expect(heard).toHaveLength(3));
  expect(heard.slice(1)).toEqual([`${context.person} settings`, `${context.person} outgoing`]);
});

test("nothing is told of a turn that came to nothing", async () => {
  const { context } = fresh;
  const failing = inTurn(context.db, context.person, async (tx) => {
    await tell(tx, context.person, "settings");
    throw new Error("no");
  });
  await expect(failing).rejects.toThrow("no");
  await mark();
  expect(heard).toEqual(["mark"]);
});

test("what was told outside of a turn is told at once", async () => {
  await tell(fresh.context.db.sql, fresh.context.person, "words");
  await vi.waitFor(() => expect(heard).toEqual([`${fresh.context.person} words`]));
});

test("a stream finds by itself what nobody has told, and says nothing where there is nothing", async () => {
  vi.useFakeTimers({ toFake: ["setInterval", "clearInterval"] });
  const { context, db } = fresh;
  const stop = new AbortController();
  const told: Event["type"][] = [];
  const stream = (async () => {
    for await (const { type } of eventsFor(context, 0, stop.signal, async () => true)) told.push(type);
  })();
  const looks = () => db.sql`select seq from person where id = ${context.person}`;
  const later = async () => {
    await vi.advanceTimersByTimeAsync(30_000);
    // The look has been answered by the time that others asked behind it are.
    for (let n = 0; n < 20; n++) await looks();
  };
  await later();
  await later();
  expect(told).toEqual([]);
  // As a process does that ends right behind its commit.
  await db.sql`update person set seq = seq + 1 where id = ${context.person}`;
  await later();
  await vi.waitFor(() =>
    expect(told.toSorted()).toEqual(["accounts", "filing", "ledger", "outgoing", "settings", "words"]),
  );
  await later();
  expect(told).toHaveLength(6);
  // What was told is not looked for.
  await db.sql`update person set seq = seq + 1 where id = ${context.person}`;
  await tell(db.sql, context.person, "filing");
  await vi.waitFor(() => expect(told).toHaveLength(7));
  await later();
  expect(told).toHaveLength(7);
  stop.abort();
  await stream;
});
