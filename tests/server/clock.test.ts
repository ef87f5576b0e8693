import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { messageId, runId } from "@/core/id";
import { nextUndo } from "@/core/ledger";
import { plan } from "@/core/macro";
import { createFolder, listMessages, readLedger, runMacro, takeBack } from "@/server/act";
import { openDatabase } from "@/server/db";
import { wakeDue } from "@/server/jobs";
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
const listed = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 500, after: null })).rows.map((row) => row.id);

/** Timers and states say the same, whatever was done: every deferred message has its timer, and no other has one. */
async function expectTimersRight(): Promise<void> {
  const wrong = await fresh.db.sql`
    select coalesce(s.message, t.ref) as message, s.defer_until, t.at
    from (select * from message_state where defer_until is not null) s
      full join (select * from timer where kind = 'wake') t on t.person = s.person and t.ref = s.message
    where s.defer_until is distinct from t.at`;
  expect([...wrong]).toEqual([]);
}

describe("what was deferred", () => {
  test("comes back when its time has come, not before, where it was, marked with since when", async () => {
    const [soon, late] = (await fillWithMessages(fresh, 2)) as [number, number];
    await run([soon], { do: "move", to: "Bookings" }, { do: "defer", until: "2026-10-01 08:30" });
    await run([late], { do: "defer", until: "2026-10-03" });
    expect(await wakeDue(fresh.db, new Date("2026-10-01T06:29:59.999Z"))).toBe(0);
    expect(await listed("deferred")).toEqual([soon, late]);
    expect(await wakeDue(fresh.db, new Date("2026-10-01T06:30:00Z"))).toBe(1);
    expect(await stateOf(soon)).toMatchObject({ defer: null, back: "2026-10-01T06:30:00.000Z" });
    expect(await listed("returned")).toEqual([soon]);
    expect(await listed("folder=Bookings")).toEqual([soon]);
    expect(await listed("deferred")).toEqual([late]);
    expect(await wakeDue(fresh.db, new Date("2026-10-02T00:00:00Z"))).toBe(0);
    const [entry] = await readLedger(fresh.context, { limit: 1 });
    expect(entry).toMatchObject({ actor: "clock", cause: "deferred", changed: 1 });
    await expectTimersRight();
  });

  test("comes back once, however many processes look at the clock", async () => {
    const ids = await fillWithMessages(fresh, 30);
    await run(ids, { do: "defer", until: "2026-10-05 08:00" });
    const others = [openDatabase(fresh.url, 2), openDatabase(fresh.url, 2)];
    const now = new Date("2026-10-05T09:00:00Z");
    const counts = await Promise.all([fresh.db, ...others].map((db) => wakeDue(db, now)));
    expect(counts.reduce((a, b) => a + b)).toBe(31);
    const entries = (await readLedger(fresh.context, { limit: 500 })).filter((entry) => entry.actor === "clock");
    expect(entries.map((entry) => entry.changed).sort((a, b) => a - b)).toEqual([1, 31]);
    await Promise.all(others.map((db) => db.close()));
    await expectTimersRight();
  });

  test("is the clock's to bring back, so undo by key means the person's own run; but the ledger can", async () => {
    const [id] = (await fillWithMessages(fresh, 1)) as [number];
    const deferred = await run([id], { do: "defer", until: "2026-10-06" });
    await wakeDue(fresh.db, new Date("2026-10-06T12:00:00Z"));
    const entries = (await readLedger(fresh.context, { limit: 50 })).map((entry) => ({
      ...entry,
      id: runId(entry.id),
      of: entry.of === null ? null : runId(entry.of),
    }));
    expect(nextUndo(entries).target?.id).toBe(deferred.id);
    const back = entries.find((entry) => entry.actor === "clock")!;
    await undo(back.id);
    expect((await stateOf(id)).defer).not.toBeNull();
    await expectTimersRight();
    // It is deferred as it was, and that time has passed: the clock brings it back again.
    expect(await wakeDue(fresh.db, new Date("2026-10-06T12:00:01Z"))).toBe(1);
  });

  test("stays away where it was deferred further, moved or ended in the meantime", async () => {
    const ids = await fillWithMessages(fresh, 4);
    const [further, moved, ended, gone] = ids as [number, number, number, number];
    await run(ids, { do: "defer", until: "2026-10-07" });
    await run([further], { do: "defer", until: "2027-01-07" });
    await run([moved], { do: "archive" });
    await run([ended], { do: "end deferral" });
    await run([gone], { do: "delete for good" });
    await expectTimersRight();
    expect((await stateOf(ended)).back).not.toBeNull();
    expect(await wakeDue(fresh.db, new Date("2026-10-08T00:00:00Z"))).toBe(0);
    expect(await listed("deferred & date>2026-10")).toContain(further);
    expect(await stateOf(moved)).toMatchObject({ defer: null, back: null });
  });

  test("and what is decided about it ends its being back; undo of that brings it back on top", async () => {
    const [id] = (await fillWithMessages(fresh, 1)) as [number];
    await run([id], { do: "defer", until: "2026-10-09" });
    await wakeDue(fresh.db, new Date("2026-10-10T00:00:00Z"));
    const read = await run([id], { do: "toggle read" }, { do: "label", add: "Invoice" });
    expect((await stateOf(id)).back).not.toBeNull();
    for (const step of [{ do: "archive" }, { do: "owe" }, { do: "flag", due: "+1d" }, { do: "make task" }]) {
      const entry = await run([id], step);
      expect((await stateOf(id)).back).toBeNull();
      await undo(entry.id);
      expect((await stateOf(id)).back).not.toBeNull();
    }
    await undo(read.id);
  });

  test("a timer that stands alone brings nothing back, and writes nothing", async () => {
    const { db, context } = fresh;
    const [id] = (await fillWithMessages(fresh, 1)) as [number];
    await db.sql`insert into timer (person, kind, ref, at) values (${context.person}, 'wake', ${id}, '2026-10-01')`;
    const before = await readLedger(context, { limit: 500 });
    expect(await wakeDue(db, new Date("2026-10-11T00:00:00Z"))).toBe(0);
    expect(await readLedger(context, { limit: 500 })).toEqual(before);
    await db.sql`delete from timer where ref = ${id}`;
  });

  test("of copies, undone runs and thousands at once: timers are as the states are", async () => {
    const ids = await fillWithMessages(fresh, 3000);
    await createFolder(fresh.context, { path: "Winter" });
    const all = await run(ids, { do: "defer", until: "2026-10-20" });
    await run(ids.slice(0, 10), { do: "copy", to: "Winter" });
    await expectTimersRight();
    await undo(all.id);
    await expectTimersRight();
    expect((await listed("deferred & folder=Winter")).length).toBe(10);
    expect(await wakeDue(fresh.db, new Date("2026-10-20T12:00:00Z"))).toBe(10);
    await expectTimersRight();
  });
});

describe("at the changes of clocks", () => {
  test.each([
    ["tomorrow 9", "2026-03-28T09:00:00Z", "2026-03-29T07:00:00.000Z"],
    ["tomorrow 9", "2026-10-24T09:00:00Z", "2026-10-25T08:00:00.000Z"],
    ["+1d", "2027-03-27T20:30:00Z", "2027-03-28T07:00:00.000Z"],
  ])("%s, said at %s", async (until, at, expected) => {
    const [id] = (await fillWithMessages(fresh, 1)) as [number];
    const steps = [{ do: "defer", until }];
    // A run counts from when it was decided only within a month: the clock of the planner is given instead.
    const planned = plan(
      { steps } as never,
      [{ id: messageId(id), state: await stateOf(id) }],
      {},
      {
        directory: { folders: [], labels: [], markers: [] },
        now: new Date(at),
        zone: "Europe/Zurich",
      },
    );
    if (!planned.ok) throw new Error("cannot be planned");
    expect(planned.plan.change.messages.get(messageId(id))).toMatchObject([{ kind: "defer", after: expected }]);
  });
});
