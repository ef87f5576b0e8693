import { randomUUID } from "node:crypto";
import { spawn } from "node:child_process";
import { afterAll, beforeAll, describe, expect, test, vi } from "vitest";
import { messageId, runId } from "@/core/id";
import { listBatches, listMessages, readLedger, runMacro, takeBack } from "@/server/act";
import { openDatabase } from "@/server/db";
import { unpinDue } from "@/server/jobs";
import { readStates } from "@/server/store";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

const run = async (ids: readonly number[], ...steps: object[]) =>
  (await runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids } } as never)).entry!;
const undo = (id: string) => takeBack(fresh.context, "undo", runId(id));
const stateOf = async (id: number) =>
  (await readStates(fresh.db.sql, fresh.context.person, [messageId(id)])).get(messageId(id))!;
const timers = async () =>
  (await fresh.db.sql<{ ref: number; at: string }[]>`select ref, at::text from timer where kind = 'hand' order by ref`)
    .length;

describe("what is pinned until a day", () => {
  test("stays pinned until then, in the person's zone, and the ledger says that the clock took the pin off", async () => {
    const [winter, summer] = (await fillWithMessages(fresh, 2)) as [number, number];
    await run([winter], { do: "pin", until: "2027-01-12 09:00" });
    await run([summer], { do: "pin", until: "2027-07-12 09:00" });
    // Zurich is an hour ahead in winter, two in summer.
    expect(await stateOf(winter)).toMatchObject({ pin: true, hand: "2027-01-12T08:00:00.000Z" });
    expect(await stateOf(summer)).toMatchObject({ pin: true, hand: "2027-07-12T07:00:00.000Z" });
    expect(await unpinDue(fresh.db, new Date("2027-01-12T07:59:59.999Z"))).toBe(0);
    expect(await unpinDue(fresh.db, new Date("2027-01-12T08:00:00Z"))).toBe(1);
    expect(await stateOf(winter)).toMatchObject({ pin: false, hand: null });
    expect(await stateOf(summer)).toMatchObject({ pin: true });
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry).toMatchObject({ actor: "clock", cause: "at hand", changed: 1, macro: { name: "At hand no more" } });
    expect(await timers()).toBe(1);
  });

  test("is taken off once, by whichever of several processes looks first", async () => {
    const ids = await fillWithMessages(fresh, 40);
    await run(ids, { do: "pin", until: "2026-10-25 02:30" });
    const others = [openDatabase(fresh.url, 2), openDatabase(fresh.url, 2)];
    const counts = await Promise.all([fresh.db, ...others].map((db) => unpinDue(db, new Date("2026-10-26T00:00:00Z"))));
    expect(counts.reduce((a, b) => a + b)).toBe(40);
    await Promise.all(others.map((db) => db.close()));
  });

  test("stays where it was pinned for good, or unpinned, in the meantime; undo brings its end back", async () => {
    const ids = await fillWithMessages(fresh, 3);
    const [good, off, back] = ids as [number, number, number];
    await run(ids, { do: "pin", until: "2026-09-01" });
    await run([good], { do: "pin" });
    await run([off], { do: "unpin" });
    const unpinned = await run([back], { do: "unpin" });
    expect((await stateOf(back)).hand).toBeNull();
    await undo(unpinned.id);
    expect((await stateOf(back)).hand).not.toBeNull();
    expect(await unpinDue(fresh.db, new Date("2026-09-02T00:00:00Z"))).toBe(1);
    expect(await stateOf(good)).toMatchObject({ pin: true, hand: null });
    expect(await stateOf(off)).toMatchObject({ pin: false, hand: null });
    expect(await stateOf(back)).toMatchObject({ pin: false, hand: null });
  });
});

describe("the reading pile", () => {
  test("is a batch from the beginning, oldest first, of what was put there", async () => {
    const [pile] = (await listBatches(fresh.context)).filter(({ name }) => name === "Reading pile");
    expect(pile).toMatchObject({ order: "oldest", narrow: "label=Reading" });
    const ids = await fillWithMessages(fresh, 3);
    await run(ids.slice(1), { do: "label", add: "Reading" });
    const { rows } = await listMessages(fresh.context, {
      narrow: pile!.narrow,
      order: "oldest",
      limit: 9,
      after: null,
    });
    expect(rows.map(({ id }) => id)).toEqual(ids.slice(1));
  });
});

describe("after a long standstill", () => {
  test("two job processes bring five hundred back, each once, in the order they were due", async () => {
    const ids = await fillWithMessages(fresh, 500);
    // Across both changes of the clock, the last put away first.
    const days = ["2026-10-26 03:00", "2026-10-25 02:30", "2026-10-24 03:00", "2026-03-29 02:30", "2026-03-28 02:30"];
    for (const [i, until] of days.entries()) await run(ids.slice(100 * i, 100 * i + 100), { do: "defer", until });
    const before = Date.now();
    const env = { ...process.env, DATABASE_URL: fresh.url };
    const both = [1, 2].map(() => spawn(process.execPath, ["dist/jobs.mjs"], { env, stdio: "ignore" }));
    const over = both.map((child) => new Promise((resolve) => child.on("exit", resolve)));
    try {
      const left = async () =>
        (
          await fresh.db.sql<{ n: number }[]>`select count(*)::int n from message_state where defer_until is not null`
        )[0]!.n;
      await vi.waitFor(async () => expect(await left()).toBe(0), { timeout: 60_000, interval: 100 });
    } finally {
      for (const child of both) child.kill("SIGTERM");
      await Promise.all(over);
    }
    const entries = (await readLedger(fresh.context, { limit: 500 })).filter(
      (entry) => entry.cause === "deferred" && Date.parse(entry.at) >= before,
    );
    expect(entries.reduce((sum, { changed }) => sum + changed, 0)).toBe(500);
    const returned = await listMessages(fresh.context, {
      narrow: "returned",
      order: "oldest",
      limit: 500,
      after: null,
    });
    expect(returned.rows).toHaveLength(500);
    const backs = await Promise.all(ids.filter((_, i) => i % 100 === 0).map(stateOf));
    // 02:30 on the day the clock goes forward does not exist: it is taken as an hour later by the clock.
    expect(backs.map(({ back }) => back)).toEqual([
      "2026-10-26T02:00:00.000Z",
      "2026-10-25T00:30:00.000Z",
      "2026-10-24T01:00:00.000Z",
      "2026-03-29T01:30:00.000Z",
      "2026-03-28T01:30:00.000Z",
    ]);
  });
});
