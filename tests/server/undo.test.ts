import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { messageId, runId } from "@/core/id";
import { nextUndo } from "@/core/ledger";
import {
  changeSettings,
  changeTask,
  createFolder,
  listFolders,
  listTasks,
  readEntry,
  readHome,
  readLedger,
  removeFolder,
  runMacro,
  takeBack,
} from "@/server/act";
import { letGo } from "@/server/jobs";
import { readStates } from "@/server/store";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

const run = async (target: object, ...steps: object[]) =>
  (
    await runMacro(fresh.context, {
      id: randomUUID(),
      macro: { name: `Test ${(steps[0] as { do: string }).do}`, steps },
      target,
    } as never)
  ).entry!;
const undo = (id: string) => takeBack(fresh.context, "undo", runId(id));
const entries = () => readLedger(fresh.context, { limit: 500 });
/** What the undo key would mean, as a window finds it. */
const next = async () =>
  nextUndo((await entries()).map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) })));
const stateOf = async (id: number) =>
  (await readStates(fresh.db.sql, fresh.context.person, [messageId(id)])).get(messageId(id));
const contacts = () => fresh.db.sql<{ address: string; name: string }[]>`select address, name from contact order by 1`;

describe("what cannot come back", () => {
  test("a deletion does not hold undo up: it means the run before", async () => {
    const [a, b] = await fillWithMessages(fresh, 2);
    const moved = await run({ ids: [a] }, { do: "pin" });
    const gone = await run({ ids: [b] }, { do: "delete for good" });
    expect(gone).toMatchObject({ changed: 1, restorable: 0, state: "done" });
    const meant = await next();
    expect(meant.target?.id).toBe(moved.id);
    expect(meant.passed.map((entry) => entry.id)).toEqual([gone.id]);
    await expect(undo(gone.id)).rejects.toMatchObject({ status: 409, more: { code: "nothing-left" } });
    await undo(moved.id);
    expect((await stateOf(a!))?.pin).toBe(false);
  });

  test("what trash lets go is the keeper's, and never the person's last run", async () => {
    const { db, context } = fresh;
    const [kept, old] = await fillWithMessages(fresh, 2);
    const read = await run({ ids: [kept] }, { do: "flag" });
    await run({ ids: [old] }, { do: "trash" });
    await db.sql`update message_state set folder_since = now() - interval '40 days' where message = ${old!}`;
    await changeSettings(context, { trashDays: 30 });
    expect(await letGo(db, context, new Date())).toBe(1);
    const [purge] = await entries();
    expect(purge).toMatchObject({ actor: "keeper", cause: "trash and junk", kind: "run", restorable: 0 });
    // The trashing stands as far as the ledger knows, but its message is gone: that is found out when it is tried.
    const meant = await next();
    expect(meant.passed.map((entry) => entry.actor)).not.toContain("keeper");
    const before = (await entries()).length;
    await expect(undo(meant.target!.id)).rejects.toThrow(/deleted for good since/);
    expect((await entries()).length).toBe(before);
    // From then on it is undone, so that the key means the run before.
    expect((await entries()).find((entry) => entry.id === meant.target!.id)).toMatchObject({
      state: "undone",
      restorable: 0,
    });
    expect((await next()).target?.id).toBe(read.id);
  });

  test("a run whose messages are partly gone gives back the rest, and is undone then", async () => {
    const ids = await fillWithMessages(fresh, 3);
    const pinned = await run({ ids }, { do: "pin" });
    await run({ ids: [ids[0]] }, { do: "delete for good" });
    const answer = await undo(pinned.id);
    expect(answer).toMatchObject({ restored: 2, skipped: [{ message: ids[0], reason: "gone" }] });
    expect((await entries()).find((entry) => entry.id === pinned.id)).toMatchObject({ state: "undone", restorable: 0 });
    await expect(undo(pinned.id)).rejects.toMatchObject({ more: { code: "nothing-left" } });
  });

  test("where everything was changed again since, nothing is written, and the reason is said", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const moved = await run({ ids: [id] }, { do: "move", to: "Bookings" });
    await run({ ids: [id] }, { do: "move", to: "Weather" });
    const before = await entries();
    await expect(undo(moved.id)).rejects.toThrow(/changed again since/);
    expect(await entries()).toEqual(before);
    // It may be possible later: the run still stands.
    expect(before.find((entry) => entry.id === moved.id)?.state).toBe("done");
  });

  test("an undo, an arrival or nothing at all is no run to take back", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const pinned = await run({ ids: [id] }, { do: "pin" });
    const back = await undo(pinned.id);
    await expect(undo(back.entry.id)).rejects.toMatchObject({ status: 409, title: "Not a run" });
    await expect(undo(randomUUID())).rejects.toMatchObject({ status: 404 });
    await expect(takeBack(fresh.context, "redo", runId(back.entry.id))).rejects.toMatchObject({ status: 409 });
    const again = await takeBack(fresh.context, "redo", runId(pinned.id));
    await expect(takeBack(fresh.context, "redo", runId(pinned.id))).rejects.toThrow("not taken back");
    expect(again.entry.of).toBe(pinned.id);
  });

  test("the same request twice takes back once", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const pinned = await run({ ids: [id] }, { do: "pin" });
    const request = randomUUID();
    const answers = await Promise.all([1, 2].map(() => takeBack(fresh.context, "undo", runId(pinned.id), request)));
    expect(new Set(answers.map((answer) => answer.entry.seq)).size).toBe(1);
  });
});

describe("things", () => {
  test("one contact under two messages is one cell, and goes as it came", async () => {
    // Numbers seven apart have one sender.
    const ids = await fillWithMessages(fresh, 8);
    const before = await contacts();
    const added = await run({ ids: [ids[0], ids[7]] }, { do: "add contact" });
    expect(await contacts()).toHaveLength(before.length + 1);
    expect(added).toMatchObject({ changed: 1, restorable: 1 });
    await undo(added.id);
    expect(await contacts()).toEqual(before);
    await takeBack(fresh.context, "redo", runId(added.id));
    expect(await contacts()).toHaveLength(before.length + 1);
    await undo(added.id);
  });

  test("a task changed by hand is an entry, and is taken back like any run", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const made = await run({ ids: [id] }, { do: "make task", title: "Ring the hut", due: "+2d" });
    const task = (await listTasks(fresh.context)).find((one) => one.title === "Ring the hut")!;
    await changeTask(fresh.context, task.id, { done: true, title: "Ring Tarn Hut" });
    const [entry] = await entries();
    expect(entry).toMatchObject({
      kind: "run",
      actor: "person",
      restorable: 1,
      macro: { name: "Task done" },
      about: "Ring the hut",
    });
    expect((await readEntry(fresh.context, runId(entry!.id))).changes[0]).toMatchObject({ message: id });
    await undo(entry!.id);
    expect((await listTasks(fresh.context)).find((one) => one.id === task.id)).toEqual(task);
    // What is as it was is no entry.
    const count = (await entries()).length;
    await changeTask(fresh.context, task.id, { title: "Ring the hut" });
    expect((await entries()).length).toBe(count);
    await undo(made.id);
    expect((await listTasks(fresh.context)).some((one) => one.id === task.id)).toBe(false);
  });

  test("what was only read is in no list of what was decided, nor is what was taken back of it", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const before = (await entries()).map((entry) => entry.id);
    const { entry } = await runMacro(fresh.context, {
      id: runId(randomUUID()),
      macro: { name: "Read", steps: [{ do: "read" }] },
      cause: "reading",
      target: { ids: [id] },
    } as never);
    await undo(entry!.id);
    expect((await stateOf(id!))?.read).toBe(false);
    await takeBack(fresh.context, "redo", runId(entry!.id));
    expect((await entries()).map((one) => one.id)).toEqual(before);
    const history = await readLedger(fresh.context, { limit: 500, message: messageId(id!) });
    expect(history.map((one) => one.kind)).toEqual(["redo", "undo", "run"]);
  });

  test("what rules did over night, however much, hides no decision from a window that opens in the morning", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const pinned = await run({ ids: [id] }, { do: "pin" });
    await fresh.db.sql`
      insert into ledger (person, seq, run, kind, actor, cause, at, name, steps, messages, changed, state, change, skipped)
      select person, seq + n, gen_random_uuid(), 'run', 'rule', 'rule 1', at, 'By night', steps, 0, 0, state, change, skipped
      from ledger, generate_series(1, 300) n where run = ${pinned.id}`;
    await fresh.db.sql`update person set seq = seq + 300`;
    const meant = (list: Awaited<ReturnType<typeof entries>>) =>
      nextUndo(list.map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) }))).target?.id;
    const { ledger } = await readHome(fresh.context);
    expect(meant(ledger)).toBe(pinned.id);
    const held = await readLedger(fresh.context, { limit: 3, others: 7 });
    expect(meant(held)).toBe(pinned.id);
    expect(held.map(({ actor }) => actor)).toEqual([...Array(7).fill("rule"), ...Array(3).fill("person")]);
    expect(held.map(({ seq }) => seq)).toEqual(held.map(({ seq }) => seq).sort((a, b) => b - a));
    expect((await readLedger(fresh.context, { limit: 3 })).map(({ actor }) => actor)).toEqual(["rule", "rule", "rule"]);
    await undo(pinned.id);
    await fresh.db.sql`delete from ledger where actor = 'rule' and name = 'By night'`;
  });

  test("a title cut inside a pair of surrogates loses the whole of it", async () => {
    const [id] = await fillWithMessages(fresh, 1);
    const subject = `${"x".repeat(299)}🙂`;
    await fresh.db.sql`update message set subject = ${subject} where id = ${id!}`;
    await run({ ids: [id] }, { do: "make task" });
    expect((await listTasks(fresh.context)).some((one) => one.title === "x".repeat(299))).toBe(true);
  });

  test("a folder that mail came into since is not taken away again", async () => {
    const { context } = fresh;
    await createFolder(context, { path: "Away" });
    const away = async () => (await listFolders(context)).find((one) => one.path === "Away");
    const removed = await removeFolder(context, (await away())!.id, { to: null, merge: false });
    await undo(removed.entry!.id);
    const [id] = await fillWithMessages(fresh, 1, (await away())!.id);
    await expect(takeBack(context, "redo", runId(removed.entry!.id))).resolves.toMatchObject({ restored: 0 });
    expect((await away())?.total).toBe(1);
    expect((await stateOf(id!))?.folder).toBe((await away())!.id);
  });
});

test("a window begins without reading what runs left alone", async () => {
  const ids = await fillWithMessages(fresh, 1500);
  await run({ ids }, { do: "unread" });
  const skipped = await run({ ids }, { do: "unread" });
  expect(skipped.skipped).toBe(1500);
  const [row] = await fresh.db.sql<{ kept: number }[]>`
    select jsonb_array_length(skipped) as kept from ledger where run = ${skipped.id}`;
  expect(row!.kept).toBe(1000);
  const home = await readHome(fresh.context);
  expect(home.ledger.find((entry) => entry.id === skipped.id)?.skipped).toBe(1500);
});
