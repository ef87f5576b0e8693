import postgres from "postgres";
import { afterAll, afterEach, beforeAll, expect, test, vi } from "vitest";
import { eventsFor, untold, type Event } from "@/server/act";
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
  // The first stream of a process is told all: it may be one of before the process, come back.
  const stop = new AbortController();
  for await (const { type } of eventsFor(fresh.context, 0, stop.signal, async () => true))
    if (type === "words") stop.abort();
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

/** What a stream tells beside entries, by and by. */
function toldBy(signal: AbortSignal): { told: Set<Event["type"]>; over: Promise<void> } {
  const told = new Set<Event["type"]>();
  const over = (async () => {
    for await (const { type } of eventsFor(fresh.context, 0, signal, async () => true)) told.add(type);
  })();
  return { told, over };
}

const UNNUMBERED = ["accounts", "filing", "ledger", "outgoing", "settings"];

// The first: what others tell is heard a moment later.
test("a stream begins by saying that what has no number may be old: it was read before anybody listened", async () => {
  const stop = new AbortController();
  const { told, over } = toldBy(stop.signal);
  await vi.waitFor(() => expect([...told].toSorted()).toEqual(UNNUMBERED));
  stop.abort();
  await over;
});

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

test("a look finds what was written since the one before where nothing was heard, and nothing else", () => {
  const look = untold();
  expect(look(5, false)).toBe(false);
  expect(look(5, false)).toBe(false);
  expect(look(6, true)).toBe(false);
  expect(look(6, false)).toBe(false);
  expect(look(8, false)).toBe(true);
  expect(look(8, false)).toBe(false);
});

test("a stream says by itself that all is to be read anew, where nobody told or where it could not be heard", async () => {
  vi.useFakeTimers({ toFake: ["setInterval", "clearInterval"] });
  const { context, db } = fresh;
  const stop = new AbortController();
  const { told, over } = toldBy(stop.signal);
  while (!told.has("words")) {
    // As a process does that ends right behind its commit.
    await db.sql`update person set seq = seq + 1 where id = ${context.person}`;
    await vi.advanceTimersByTimeAsync(30_000);
  }
  await vi.waitFor(() => expect([...told].toSorted()).toEqual([...UNNUMBERED, "words"]));
  told.clear();
  const cut = await db.sql`
    select pg_terminate_backend(pid) from pg_stat_activity
    where datname = current_database() and query ilike 'listen%' and pid <> pg_backend_pid()`;
  expect(cut.length).toBeGreaterThan(0);
  await vi.waitFor(() => expect([...told].toSorted()).toEqual([...UNNUMBERED, "words"]), { timeout: 30_000 });
  stop.abort();
  await over;
});
