import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { messageId, runId, type MessageId } from "@/core/id";
import {
  createFolder,
  dryRun,
  listFolders,
  listMessages,
  readLedger,
  changeFolder,
  runMacro,
  takeBack,
  createMacro,
  listMacros,
  Refusal,
} from "@/server/act";
import { migrateDatabase, NewerDatabase } from "@/server/db";
import { readStates } from "@/server/store";
import { fillWithMessages, freshDatabase, MIGRATIONS, type Fresh } from "./database";

let fresh: Fresh;
let ids: number[];
beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 400);
});
afterAll(() => fresh.drop());

const run = (steps: object[], target: object, more: object = {}) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "Test", steps }, target, ...more } as never);
const statesOf = (of: readonly number[]) => readStates(fresh.db.sql, fresh.context.person, of.map(messageId));
const snapshot = async (of: readonly number[]) => JSON.stringify([...(await statesOf(of))].sort(([a], [b]) => a - b));
const folder = async (path: string) => (await listFolders(fresh.context)).find((f) => f.path === path)!;

const FIVE = [
  { do: "label", add: "Winter season" },
  { do: "flag", due: "+3d", note: "beds" },
  { do: "read" },
  { do: "marker", set: "R" },
  { do: "move", to: "Bookings" },
];

describe("a run", () => {
  test("does all its steps, keeps the counts right, and is taken back exactly", async () => {
    const some = ids.slice(0, 300);
    const before = await snapshot(some);
    const inbox = await folder("Inbox");
    const answer = await run(FIVE, { ids: some });
    expect(answer).toMatchObject({ changed: 300, skipped: [], asks: [] });
    const state = (await statesOf(some)).get(messageId(some[0]!))!;
    expect(state).toMatchObject({ read: true, marker: 1, flag: { note: "beds" }, labels: [1] });
    expect((await folder("Bookings")).total).toBe(300);
    expect((await folder("Inbox")).total).toBe(inbox.total - 300);
    const undo = await takeBack(fresh.context, "undo", runId(answer.entry!.id));
    expect(undo).toMatchObject({ restored: 300, skipped: [] });
    expect(await snapshot(some)).toBe(before);
    expect(await folder("Inbox")).toEqual(inbox);
    await takeBack(fresh.context, "redo", runId(answer.entry!.id));
    expect((await folder("Bookings")).total).toBe(300);
    await takeBack(fresh.context, "undo", runId(answer.entry!.id));
    expect(await snapshot(some)).toBe(before);
  });

  test("counts times from when it was decided, if that was within thirty days, and not later than now", async () => {
    const DAY = 86_400_000;
    /** Days from now to when a message comes back that was deferred for 960 hours then. */
    const away = async (id: number, decided: number) => {
      const at = new Date(Date.now() + decided * DAY).toISOString();
      await run([{ do: "defer", until: "+960h" }], { ids: [id] }, { at });
      const back = (await statesOf([id])).get(messageId(id))!.defer!;
      return (Date.parse(back) - Date.now()) / DAY;
    };
    expect(await away(ids[390]!, -29)).toBeCloseTo(11, 1);
    expect(await away(ids[391]!, -31)).toBeCloseTo(40, 1);
    expect(await away(ids[392]!, 3)).toBeCloseTo(40, 1);
  });

  test("sent twice, also at the same time, happens once", async () => {
    const id = randomUUID();
    const request = {
      id,
      macro: { name: "Toggle", steps: [{ do: "toggle read" }] },
      target: { ids: ids.slice(0, 10) },
    } as never;
    const before = await statesOf(ids.slice(0, 10));
    const answers = await Promise.all([1, 2, 3].map(() => runMacro(fresh.context, request)));
    expect(new Set(answers.map((a) => a.entry!.seq)).size).toBe(1);
    for (const [m, state] of await statesOf(ids.slice(0, 10))) expect(state.read).toBe(!before.get(m)!.read);
    expect((await readLedger(fresh.context, { limit: 500 })).filter((e) => e.id === id)).toHaveLength(1);
  });

  test("takes a narrowing as its target, and says who was skipped", async () => {
    const total = (
      await listMessages(fresh.context, { narrow: "from~s3 & unread", order: "oldest", limit: 1, after: null })
    ).total;
    expect(total).toBeGreaterThan(10);
    const answer = await run([{ do: "unread" }], { narrow: "from~s3 & unread" });
    expect(answer).toMatchObject({ changed: 0 });
    expect(answer.skipped).toHaveLength(total);
    expect(answer.skipped[0]).toMatchObject({ step: 1, reason: "already-so" });
    const gone = await run([{ do: "pin" }], { ids: [9_999_999] });
    expect(gone.skipped).toEqual([{ message: 9_999_999, step: 1, reason: "gone" }]);
  });

  test("dry, it says what would happen and changes nothing", async () => {
    const before = await snapshot(ids);
    const dry = await dryRun(fresh.context, {
      id: randomUUID(),
      macro: { name: "x", steps: FIVE },
      target: { ids: ids.slice(0, 250) },
      dry: true,
    } as never);
    expect(dry.messages).toHaveLength(200);
    expect(dry.totals).toMatchObject({ messages: 250, changed: 250, folder: 250 });
    expect(dry.messages[0]!.after).toMatchObject({ folder: "Bookings", labels: ["Winter season"], marker: "R" });
    expect(await snapshot(ids)).toBe(before);
  });

  test("asks what it does not know, then takes the answers", async () => {
    const steps = [{ do: "move", to: { ask: "folder" } }];
    const asked = await run(steps, { ids: [ids[0]] });
    expect(asked).toMatchObject({ entry: null, asks: [{ id: "1.to", kind: "folder" }] });
    const done = await run(steps, { ids: [ids[0]] }, { answers: { "1.to": "weather" } });
    expect(done.changed).toBe(1);
    await takeBack(fresh.context, "undo", runId(done.entry!.id));
  });

  test("that cannot run says which step, and changes nothing", async () => {
    const before = await snapshot(ids);
    for (const steps of [[{ do: "read" }, { do: "move", to: "Nowhere" }], [{ do: "flag", due: "someday" }], []])
      await expect(run(steps, { ids })).rejects.toBeInstanceOf(Refusal);
    await expect(run([{ do: "read" }, { do: "move", to: "Nowhere" }], { ids })).rejects.toThrow(/Step 2.*Nowhere/);
    expect(await snapshot(ids)).toBe(before);
  });

  test("times count from when it was decided", async () => {
    const at = new Date(Date.now() - 3 * 86_400_000).toISOString();
    const answer = await run([{ do: "flag", due: "+2h" }], { ids: [ids[1]] }, { at });
    const due = (await statesOf([ids[1]!])).get(messageId(ids[1]!))!.flag!.due!;
    expect(Date.parse(due) - Date.parse(at)).toBe(7_200_000);
    await takeBack(fresh.context, "undo", runId(answer.entry!.id));
  });
});

describe("copies", () => {
  test("are made with what the steps so far did, and go again with undo", async () => {
    const before = (await folder("Weather")).total;
    const answer = await run([{ do: "read" }, { do: "copy", to: "Weather" }, { do: "pin" }], {
      ids: ids.slice(20, 25),
    });
    const copies = await listMessages(fresh.context, {
      narrow: "folder=Weather",
      order: "oldest",
      limit: 50,
      after: null,
    });
    expect(copies.total).toBe(before + 5);
    expect(copies.rows.every((row) => row.read && !row.pin)).toBe(true);
    expect((await takeBack(fresh.context, "undo", runId(answer.entry!.id))).skipped).toEqual([]);
    expect((await folder("Weather")).total).toBe(before);
    await takeBack(fresh.context, "redo", runId(answer.entry!.id));
    expect((await folder("Weather")).total).toBe(before + 5);
    // A copy that was changed since is somebody's, and stays.
    const [copy] = (
      await listMessages(fresh.context, { narrow: "folder=Weather", order: "oldest", limit: 1, after: null })
    ).rows;
    await run([{ do: "pin" }], { ids: [copy!.id] });
    const undo = await takeBack(fresh.context, "undo", runId(answer.entry!.id));
    expect(undo.skipped).toEqual([{ message: copy!.id, cell: "exists", reason: "changed-elsewhere" }]);
    expect((await folder("Weather")).total).toBe(before + 1);
  });
});

describe("two writers", () => {
  test("undoing after another run leaves what that one changed, and says so", async () => {
    const some = ids.slice(100, 110);
    const first = await run([{ do: "move", to: "Bookings" }, { do: "pin" }], { ids: some });
    await run([{ do: "move", to: "Weather" }], { ids: some.slice(0, 4) });
    const undo = await takeBack(fresh.context, "undo", runId(first.entry!.id));
    expect(undo.skipped.map((s) => [s.message, s.cell, s.reason])).toEqual(
      some.slice(0, 4).map((m) => [m, "folder", "changed-elsewhere"]),
    );
    const states = await statesOf(some);
    const weather = (await folder("Weather")).id;
    for (const m of some.slice(0, 4)) expect(states.get(messageId(m))).toMatchObject({ folder: weather, pin: false });
    expect((await readLedger(fresh.context, { limit: 50 })).find((e) => e.id === first.entry!.id)?.state).toBe(
      "partly undone",
    );
  });

  test("many at once lose no write: the ledger played from the start gives what is stored", async () => {
    const some = ids.slice(200, 260);
    const start = await statesOf(some);
    const kinds = [
      [{ do: "toggle read" }],
      [{ do: "marker", next: true }],
      [{ do: "label", toggle: "Invoice" }],
      [{ do: "move", to: "Bookings" }],
      [{ do: "move", to: "Weather" }],
    ];
    const from = (await readLedger(fresh.context, { limit: 1 }))[0]!.seq;
    const answers = await Promise.all(
      Array.from({ length: 30 }, (_, i) => run(kinds[i % kinds.length]!, { ids: some.slice(i % 20, (i % 20) + 30) })),
    );
    // What overtook others may have left them nothing to do, and so nothing to take back.
    const wrote = answers.slice(0, 8).filter((a) => a.changed > 0);
    const back = await Promise.allSettled(wrote.map((a) => takeBack(fresh.context, "undo", runId(a.entry!.id))));
    for (const one of back) if (one.status === "rejected") expect(one.reason).toMatchObject({ status: 409 });
    expect(back.some((one) => one.status === "fulfilled")).toBe(true);
    const { applyEdits, load } = await import("@/core/change");
    const { entriesAfter } = await import("@/server/store");
    const played = new Map(start);
    for (const { change } of await entriesAfter(fresh.db.sql, fresh.context.person, from, 500))
      for (const [id, edits] of load(change).messages) played.set(id, applyEdits(played.get(id)!, edits));
    expect(Object.fromEntries(await statesOf(some))).toEqual(Object.fromEntries(played));
  });

  test("a writer that does not take its turn is never overwritten", async () => {
    const { changeOf } = await import("@/core/change");
    const { writeChange } = await import("@/server/store");
    const some = ids.slice(300, 304).map(messageId);
    const [, m] = some as [MessageId, MessageId];
    const states = await statesOf(some);
    await fresh.db.sql`update message_state set folder = 2 where message = ${m}`;
    const target = await folder("Bookings");
    const change = changeOf(
      some.map((message) => ({
        kind: "folder" as const,
        message,
        before: states.get(message)!.folder,
        after: target.id as never,
      })),
    );
    // The states are from before the other write, as they would be in a race.
    const done = await fresh.db.sql.begin((tx) => writeChange(tx as never, fresh.context.person, change, states));
    expect(done).toMatchObject({ skipped: [{ message: m, cell: "folder", reason: "changed-elsewhere" }] });
    expect([...done.change.messages.keys()]).toEqual(some.filter((id) => id !== m));
    const now = await statesOf(some);
    expect(some.map((id) => now.get(id)!.folder)).toEqual([target.id, 2, target.id, target.id]);
  });
});

describe("names", () => {
  test("a renamed folder takes those below it along, and macros follow", async () => {
    const macro = await createMacro(fresh.context, {
      name: "File",
      colour: "spruce",
      steps: [{ do: "move", to: "Bookings/Groups" }],
      settings: {},
    });
    const parent = await folder("Bookings");
    await changeFolder(fresh.context, parent.id, { path: "Reservations" });
    expect((await listMacros(fresh.context)).find((m) => m.id === macro.id)?.steps).toEqual([
      { do: "move", to: "Reservations/Groups" },
    ]);
    await changeFolder(fresh.context, parent.id, { path: "Bookings" });
    await expect(createFolder(fresh.context, { path: "bookings" })).rejects.toThrow(/already/);
    await expect(changeFolder(fresh.context, parent.id, { path: "Bookings/Inside" })).rejects.toThrow(/inside itself/);
    await expect(createFolder(fresh.context, { path: "a//b" })).rejects.toThrow(/slashes/i);
  });

  test("a database newer than the program is refused", async () => {
    await fresh.db.sql`insert into drizzle.__drizzle_migrations (hash, created_at) values ('later', 99999999999999)`;
    await expect(migrateDatabase(fresh.url, MIGRATIONS)).rejects.toBeInstanceOf(NewerDatabase);
    await fresh.db.sql`delete from drizzle.__drizzle_migrations where hash = 'later'`;
  });
});
