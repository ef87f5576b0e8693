import { afterAll, beforeAll, describe, expect, test } from "vitest";
import {
  changeBatch,
  changeLabel,
  changeMarker,
  createBatch,
  createFolder,
  createLabel,
  createMacro,
  createMarker,
  deleteBatch,
  deleteMarker,
  listBatches,
  listFolders,
  listMacros,
  listMessages,
  listNarrowings,
  noteNarrowing,
  readEntry,
  removeFolder,
  removeLabel,
  changeFolder,
  runMacro,
  takeBack,
  changeSettings,
} from "@/server/act";
import { runId } from "@/core/id";
import { letGo } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { readDirectory } from "@/server/run";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
let inbox: number;
beforeAll(async () => {
  fresh = await freshDatabase();
  inbox = (await readDirectory(fresh.db.sql, fresh.context.person)).folders.find(
    (folder) => folder.role === "inbox",
  )!.id;
});
afterAll(() => fresh.drop());

const count = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 1, after: null })).total;
const folder = async (path: string) => (await listFolders(fresh.context)).find((one) => one.path === path);
const run = (target: object, ...steps: object[]) =>
  runMacro(fresh.context, { id: crypto.randomUUID(), macro: { name: "x", steps }, target } as never);
const undo = (id: string) => takeBack(fresh.context, "undo", runId(id));
const redo = (id: string) => takeBack(fresh.context, "redo", runId(id));

describe("removing a folder", () => {
  test("needs to know where its mail goes, takes those below with it, and comes back whole", async () => {
    const { context } = fresh;
    const ids = await fillWithMessages(fresh, 30, inbox);
    await createFolder(context, { path: "Season/Winter" });
    await createFolder(context, { path: "Season" });
    await run({ ids: ids.slice(0, 10) }, { do: "move", to: "Season" });
    await run({ ids: ids.slice(10, 15) }, { do: "move", to: "Season/Winter" });
    const season = (await folder("Season"))!;
    const remove = (to: string | null, merge = false) => removeFolder(context, season.id, { to, merge });
    await expect(remove(null)).rejects.toThrow("15 messages");
    await expect(remove("Nowhere")).rejects.toThrow('no folder "Nowhere"');
    await expect(remove("Season/Winter")).rejects.toThrow("removed itself");
    await expect(removeFolder(context, inbox, { to: "Bookings", merge: false })).rejects.toThrow("serves as inbox");
    const { entry } = await remove("Bookings");
    expect(await folder("Season")).toBeUndefined();
    expect(await folder("Season/Winter")).toBeUndefined();
    expect(await count("folder=Bookings")).toBe(15);
    // The name is free, and what takes it is not overwritten by the one that comes back.
    await createFolder(context, { path: "season" });
    await undo(entry!.id);
    expect((await folder("Season (brought back)"))?.total).toBe(10);
    expect((await folder("Season/Winter"))?.total).toBe(5);
    await redo(entry!.id);
    expect(await folder("Season/Winter")).toBeUndefined();
    expect(await count("folder=Bookings")).toBe(15);
  });

  test("merging is followed by macros and batches; an empty one needs no place for its mail", async () => {
    const { context } = fresh;
    await createFolder(context, { path: "Old" });
    const macro = await createMacro(context, {
      name: "To old",
      colour: "slate",
      steps: [{ do: "move", to: "Old" }],
      settings: {},
    });
    const batch = await createBatch(context, {
      name: "In old",
      narrow: "folder=Old & unread",
      order: "oldest",
      group: "none",
      deck: null,
    });
    await removeFolder(context, (await folder("Old"))!.id, { to: "Weather", merge: true });
    expect((await listMacros(context)).find((one) => one.id === macro.id)?.steps).toEqual([
      { do: "move", to: "Weather" },
    ]);
    expect((await listBatches(context)).find((one) => one.id === batch.id)?.narrow).toBe("folder=Weather & unread");
    await createFolder(context, { path: "Empty" });
    const { entry } = await removeFolder(context, (await folder("Empty"))!.id, { to: null, merge: false });
    expect(await folder("Empty")).toBeUndefined();
    await undo(entry!.id);
    expect(await folder("Empty")).toBeDefined();
  });

  test("no message is ever put back into a folder that nobody sees", async () => {
    const { context } = fresh;
    await createFolder(context, { path: "Passing" });
    const [id] = await fillWithMessages(fresh, 1, (await folder("Passing"))!.id);
    const { entry } = await run({ ids: [id] }, { do: "move", to: "Bookings" });
    await removeFolder(context, (await folder("Passing"))!.id, { to: null, merge: false });
    await undo(entry!.id);
    expect((await folder("Passing"))?.total).toBe(1);
  });

  test("renaming moves what is below, and is refused into itself", async () => {
    const { context } = fresh;
    await createFolder(context, { path: "Up" });
    await createFolder(context, { path: "Up/Down" });
    const up = (await folder("Up"))!;
    await changeFolder(context, up.id, { path: "Bookings/Up" });
    expect(await folder("Bookings/Up/Down")).toBeDefined();
    await expect(changeFolder(context, up.id, { path: "Bookings/Up/Down/In" })).rejects.toThrow("inside itself");
    await expect(changeFolder(context, up.id, { path: "weather" })).rejects.toThrow("already");
  });
});

describe("labels and markers", () => {
  test("removing a label touches no mail but for the label, and comes back with it", async () => {
    const { context } = fresh;
    const ids = await fillWithMessages(fresh, 4, inbox);
    const label = await createLabel(context, { name: "Season", colour: "plum" });
    await createLabel(context, { name: "Season/Snow", colour: "slate" });
    await run({ ids }, { do: "label", add: "Season" }, { do: "pin" });
    const { entry, changed } = await removeLabel(context, label.id);
    expect(changed).toBe(4);
    expect((await readDirectory(context.db.sql, context.person)).labels.map((one) => one.name)).not.toContain("Season");
    expect(await count("pinned")).toBe(4);
    await undo(entry!.id);
    expect(await count("label=Season")).toBe(4);
    await changeLabel(context, label.id, { name: "Winter" });
    expect((await readDirectory(context.db.sql, context.person)).labels.map((one) => one.name)).toContain(
      "Winter/Snow",
    );
  });

  test("a marker that is not in use keeps its messages, and stepping leaves it out", async () => {
    const { context } = fresh;
    const [id] = await fillWithMessages(fresh, 1, inbox);
    const markers = async () => (await readDirectory(context.db.sql, context.person)).markers;
    const [first, second] = await markers();
    await changeMarker(context, second!.id, { used: false });
    await run({ ids: [id] }, { do: "marker", set: first!.letter });
    await run({ ids: [id] }, { do: "marker", next: true });
    const third = (await markers())[2]!;
    expect(await count(`marker=${third.letter}`)).toBe(1);
    await changeMarker(context, third.id, { position: 0, letter: "Q" });
    expect((await markers()).map((one) => one.letter).slice(0, 2)).toEqual(["Q", first!.letter]);
    await expect(deleteMarker(context, third.id)).rejects.toThrow("1 message carries");
    for (let i = (await markers()).length; i < 8; i++)
      await createMarker(context, { letter: "ABCDEFG"[i - 4]!, colour: "slate", meaning: "" });
    await expect(createMarker(context, { letter: "Z", colour: "slate", meaning: "" })).rejects.toThrow("8 markers");
  });
});

test("batches are kept in their order, checked as they are written, and named once", async () => {
  const { context } = fresh;
  const make = (name: string, narrow: string) =>
    createBatch(context, { name, narrow, order: "oldest", group: "sender", deck: 2 });
  const names = async () => (await listBatches(context)).map((batch) => batch.name);
  for (const batch of await listBatches(context)) await deleteBatch(context, batch.id);
  const old = await make("Old and unread", "unread & age>7d");
  const big = await make("Large", "size>1M");
  await expect(make("large", "size>2M")).rejects.toThrow("already");
  await expect(make("Bad", "form~x")).rejects.toMatchObject({ more: { issues: [{ from: 0, to: 4 }] } });
  await changeBatch(context, big.id, { position: 0, order: "largest", deck: null });
  expect(await names()).toEqual(["Large", "Old and unread"]);
  expect((await listBatches(context))[0]).toMatchObject({ order: "largest", group: "sender", deck: null });
  await expect(changeBatch(context, old.id, { narrow: "label=None" })).rejects.toThrow("no label");
  await deleteBatch(context, old.id);
  expect(await names()).toEqual(["Large"]);
});

test("conditions that were used are kept, the last first; what cannot be read is not", async () => {
  const { context } = fresh;
  for (const text of ["unread", "age>7d", "unread"]) await noteNarrowing(context, text);
  expect(await listNarrowings(context)).toEqual(["unread", "age>7d"]);
  await expect(noteNarrowing(context, "form~x")).rejects.toThrow();
});

test("a described target leaves out what was taken out and what came in later", async () => {
  const ids = await fillWithMessages(fresh, 6, inbox);
  const target = { narrow: "subject~number & !read & folder=Inbox", except: [ids[1]], through: ids[3] };
  const before = await count("pinned");
  const { entry } = await run(target, { do: "pin" });
  const { changes } = await readEntry(fresh.context, runId(entry!.id));
  const touched = changes.map((change) => change.message);
  expect(touched).not.toContain(ids[1]);
  expect(Math.max(...touched)).toBeLessThanOrEqual(ids[3]!);
  expect(await count("pinned")).toBeGreaterThan(before);
});

/** How long is waited for what is sure to come, on a busy machine too. */
const PATIENT = { timeout: 30_000 };

test("what is taken out of trash while the keeper waits for its turn stays", async () => {
  const { context, db } = fresh;
  const [rescued, old] = await fillWithMessages(fresh, 2, inbox);
  const trash = await run({ ids: [rescued!, old!] }, { do: "trash" });
  expect(trash.changed).toBe(2);
  await db.sql`update message_state set folder_since = now() - interval '40 days' where message = any(${[rescued!, old!]})`;
  let keeping: Promise<number> | undefined;
  await inTurn(db, context.person, async (tx) => {
    keeping = letGo(db, context, new Date());
    // It has chosen its messages by the time it stands in line for the turn.
    await expect
      .poll(async () => {
        const [row] = await db.sql<{ n: number }[]>`
          select count(*)::int as n from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`;
        return row!.n;
      }, PATIENT)
      .toBeGreaterThan(0);
    await tx.unsafe("update message_state set folder = $1 where message = $2", [inbox, rescued!]);
  });
  expect(await keeping).toBe(1);
  const left = await db.sql<{ id: number }[]>`select id from message where id = any(${[rescued!, old!]})`;
  expect(left.map(({ id }) => id)).toEqual([rescued]);
});

test("trash lets go what it has kept long enough, counted from when it came there", async () => {
  const { context, db } = fresh;
  const ids = await fillWithMessages(fresh, 5, inbox);
  await run({ ids }, { do: "trash" });
  await db.sql`update message_state set folder_since = now() - interval '40 days' where message = any(${ids.slice(0, 3)})`;
  // Moved to where it is already, a message has not come there anew.
  await run({ ids }, { do: "trash" }, { do: "pin" });
  expect(await letGo(context.db, context, new Date())).toBe(3);
  expect(await count("folder=Trash")).toBe(2);
  await changeSettings(context, { trashDays: null });
  await db.sql`update message_state set folder_since = now() - interval '400 days' where message = any(${ids})`;
  expect(await letGo(context.db, context, new Date())).toBe(0);
});

describe("what has just been made", () => {
  test("a folder is taken back without a run, and made again as the same one; with something in it, it stays", async () => {
    const { context } = fresh;
    const runs = async () => (await fresh.db.sql`select from ledger where kind = 'run'`).length;
    const before = await runs();
    const { id } = await createFolder(context, { path: "Rooms" });
    expect(await changeFolder(context, id, { deleted: true })).toMatchObject({ id, path: "Rooms" });
    expect(await folder("Rooms")).toBeUndefined();
    expect(await changeFolder(context, id, { deleted: false })).toMatchObject({ id, path: "Rooms", total: 0 });
    const below = await createFolder(context, { path: "Rooms/Upper" });
    await expect(changeFolder(context, id, { deleted: true })).rejects.toMatchObject({
      status: 409,
      detail: expect.stringContaining("it holds 1 folder") as string,
    });
    expect(await runs()).toBe(before);
    await changeFolder(context, below.id, { deleted: true });
    const [message] = await fillWithMessages(fresh, 1, inbox);
    const { entry } = (await run({ ids: [message!] }, { do: "move", to: "Rooms" })) as { entry: { id: string } };
    await expect(changeFolder(context, id, { deleted: true })).rejects.toMatchObject({
      detail: expect.stringContaining("1 message in it") as string,
    });
    await undo(entry.id);
    await changeFolder(context, id, { deleted: true });
    const other = await createFolder(context, { path: "rooms" });
    await expect(changeFolder(context, id, { deleted: false })).rejects.toMatchObject({ title: "The name is taken" });
    await changeFolder(context, other.id, { deleted: true });
    // One that was never there, one that is gone already, and one that serves are told apart from these.
    await expect(changeFolder(context, 999_999, { deleted: false })).rejects.toMatchObject({ status: 404 });
    await expect(changeFolder(context, other.id, { deleted: true })).rejects.toMatchObject({ status: 404 });
    await expect(changeFolder(context, inbox, { deleted: true })).rejects.toMatchObject({
      detail: expect.stringContaining("serves as inbox") as string,
    });
  });

  test("a label likewise, while no message has it and none is below it", async () => {
    const { context } = fresh;
    const { id } = await createLabel(context, { name: "Rope", colour: "spruce" });
    const [message] = await fillWithMessages(fresh, 1, inbox);
    const { entry } = (await run({ ids: [message!] }, { do: "label", add: "Rope" })) as { entry: { id: string } };
    await expect(changeLabel(context, id, { deleted: true })).rejects.toMatchObject({
      detail: expect.stringContaining("1 message with it") as string,
    });
    await undo(entry.id);
    const below = await createLabel(context, { name: "Rope/Long", colour: "spruce" });
    await expect(changeLabel(context, id, { deleted: true })).rejects.toMatchObject({ status: 409 });
    await changeLabel(context, below.id, { deleted: true });
    await changeLabel(context, id, { deleted: true });
    expect(await count("label=Rope").catch(() => null)).toBeNull();
    expect(await changeLabel(context, id, { deleted: false, colour: "amber" })).toMatchObject({
      id,
      name: "Rope",
      colour: "amber",
    });
  });
});
