import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, beforeEach, describe, expect, test } from "vitest";
import {
  changePass,
  createPass,
  deletePass,
  listPasses,
  readHome,
  readPass,
  changeFolder,
  listFolders,
  runMacro,
  takeBack,
} from "@/server/act";
import type { Step } from "@/core/macro";
import { runId } from "@/core/id";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
let ids: number[];
let id: string;
beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 12);
});
afterAll(() => fresh.drop());
beforeEach(async () => {
  id = randomUUID();
  await createPass(fresh.context, {
    id,
    name: "Ten",
    narrow: "folder=Bookings",
    order: "oldest",
    queue: ids.slice(0, 10),
  });
});

const run = (steps: Step[], on: number[], more: { id?: string; pass?: { id: string; ms: number } } = {}) =>
  runMacro(fresh.context, {
    id: randomUUID(),
    macro: { name: steps[0]!.do, steps },
    target: { ids: on },
    answers: {},
    pass: { id, ms: 1500 },
    ...more,
  });
const decided = async () => (await readPass(fresh.context, id)).deeds.map(({ message }) => message);

describe("a pass", () => {
  test("keeps what it was begun with, once, and is there until it is ended", async () => {
    const again = await createPass(fresh.context, {
      id,
      name: "x",
      narrow: "unread",
      order: "newest",
      queue: [ids[11]!],
    });
    expect(again).toMatchObject({ name: "Ten", narrow: "folder=Bookings", order: "oldest", length: 10, decided: 0 });
    expect([...again.queue].sort((a, b) => a - b)).toEqual(ids.slice(0, 10));
    expect((await readHome(fresh.context)).passes.map((pass) => pass.id)).toContain(id);
    await changePass(fresh.context, id, { ended: true });
    expect((await listPasses(fresh.context)).map((pass) => pass.id)).not.toContain(id);
    const { endedAt } = await readPass(fresh.context, id);
    expect(endedAt).not.toBeNull();
    // Ended once more it stays so; gone on with it is open again.
    expect((await changePass(fresh.context, id, { ended: true })).endedAt).toBe(endedAt);
    expect((await changePass(fresh.context, id, { ended: false })).endedAt).toBeNull();
  });

  test("knows what was decided in it, with the run: taken back it does not count, done again it does", async () => {
    const { entry } = await run([{ do: "pin" }], [ids[0]!, ids[11]!]);
    // What is not in its queue is no deed of it.
    expect(await decided()).toEqual([ids[0]]);
    expect((await readPass(fresh.context, id)).deeds[0]).toMatchObject({ run: entry!.id, macro: "pin", ms: 1500 });
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await decided()).toEqual([]);
    expect((await readPass(fresh.context, id)).decided).toBe(0);
    await takeBack(fresh.context, "redo", runId(entry!.id));
    expect(await decided()).toEqual([ids[0]]);
    await takeBack(fresh.context, "undo", runId(entry!.id));
  });

  test("a run that is sent again is one deed, and a message decided twice is one that is decided", async () => {
    const request = randomUUID();
    await run([{ do: "flag" }], [ids[1]!], { id: request });
    await run([{ do: "flag" }], [ids[1]!], { id: request });
    expect(await decided()).toEqual([ids[1]]);
    await run([{ do: "unflag" }], [ids[1]!]);
    const pass = await readPass(fresh.context, id);
    expect([pass.deeds.length, pass.decided]).toEqual([2, 1]);
  });

  test("what a run leaves alone is not decided by it", async () => {
    await run([{ do: "pin" }], [ids[2]!]);
    await run([{ do: "pin" }], [ids[2]!, ids[3]!]);
    expect((await decided()).sort((a, b) => a - b)).toEqual([ids[2], ids[3]]);
    const { deeds } = await readPass(fresh.context, id);
    expect(deeds.filter(({ message }) => message === ids[2])).toHaveLength(1);
  });

  test("a pass that is not known takes nothing, and the run is made all the same", async () => {
    const { changed } = await run([{ do: "pin" }], [ids[4]!], { pass: { id: randomUUID(), ms: 1 } });
    expect(changed).toBe(1);
    expect(await decided()).toEqual([]);
  });

  test("two windows add to its lists, and take nothing from each other", async () => {
    await Promise.all([
      changePass(fresh.context, id, { skip: [ids[5]!], at: ids[6]! }),
      changePass(fresh.context, id, { skip: [ids[7]!], limit: 25 }),
      changePass(fresh.context, id, { add: [ids[10]!, ids[0]!], order: "newest" }),
    ]);
    const pass = await readPass(fresh.context, id);
    expect([...pass.skipped].sort((a, b) => a - b)).toEqual([ids[5], ids[7]]);
    expect([...pass.queue].sort((a, b) => a - b)).toEqual(ids.slice(0, 11));
    expect(pass).toMatchObject({ at: ids[6], limit: 25, order: "newest", length: 11 });
    expect((await changePass(fresh.context, id, { limit: null })).limit).toBeNull();
  });

  test("follows the folder it was begun on, and is forgotten without what was decided", async () => {
    await run([{ do: "pin" }], [ids[8]!]);
    const folder = (await listFolders(fresh.context)).find(({ path }) => path === "Bookings")!;
    await changeFolder(fresh.context, folder.id, { path: "Beds" });
    expect((await readPass(fresh.context, id)).narrow).toBe("folder=Beds");
    await changeFolder(fresh.context, folder.id, { path: "Bookings" });
    await deletePass(fresh.context, id);
    await expect(readPass(fresh.context, id)).rejects.toMatchObject({ status: 404 });
    await expect(changePass(fresh.context, id, { at: 1 })).rejects.toMatchObject({ status: 404 });
    const [state] = await fresh.db.sql<{ bits: number }[]>`select bits from message_state where message = ${ids[8]!}`;
    expect(state!.bits & 2).toBe(2);
  });
});
