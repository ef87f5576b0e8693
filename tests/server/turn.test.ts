import { randomUUID } from "node:crypto";
import { setTimeout as pause } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { changeOf } from "@/core/change";
import { folderId, messageId, type MessageId } from "@/core/id";
import {
  changeMacro,
  createFolder,
  createLabel,
  createMacro,
  listFolders,
  listMacros,
  changeFolder,
  runMacro,
} from "@/server/act";
import type { Transaction } from "@/server/db";
import { inTurn } from "@/server/run";
import { readStates, writeChange } from "@/server/store";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => void (fresh = await freshDatabase()));
afterAll(() => fresh.drop());

const request = (target: object, ...steps: object[]) =>
  ({ id: randomUUID(), macro: { name: "Test", steps }, target }) as never;
const folder = async (path: string) => (await listFolders(fresh.context)).find((one) => one.path === path);
const statesOf = (ids: readonly MessageId[]) => readStates(fresh.db.sql, fresh.context.person, ids);

/** Waits until somebody stands in line for the person's turn. */
async function somebodyWaits(): Promise<void> {
  for (;;) {
    const [row] = await fresh.db.sql`
      select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'
        and query like '%update person set seq%'`;
    if (row) return;
    await pause(10);
  }
}

describe("in the person's turn", () => {
  test("names are read when it comes: mail never ends in a folder that was removed meanwhile", async () => {
    const { db, context } = fresh;
    const [id] = await fillWithMessages(fresh, 1);
    await createFolder(context, { path: "Doomed" });
    const doomed = (await folder("Doomed"))!;
    let waiting: Promise<unknown> = Promise.resolve();
    await inTurn(db, context.person, async (tx) => {
      waiting = runMacro(context, request({ ids: [id] }, { do: "move", to: "Doomed" })).catch(
        (error: unknown) => error,
      );
      await somebodyWaits();
      await tx`update folder set removed = true where id = ${doomed.id}`;
    });
    expect(await waiting).toMatchObject({ status: 422 });
    expect((await statesOf([messageId(id!)])).get(messageId(id!))?.folder).not.toBe(doomed.id);
  });

  test("renaming and editing a macro at once loses neither, thirty times", async () => {
    const { context } = fresh;
    const { id } = await createMacro(context, { name: "Edited", colour: "spruce", steps: [], settings: {} });
    for (let i = 0; i < 30; i++) {
      const steps = [{ do: "note" as const, text: `number ${i}` }];
      await Promise.all([changeMacro(context, id, { name: `Edited ${i}` }), changeMacro(context, id, { steps })]);
      expect((await listMacros(context)).find((one) => one.id === id)).toMatchObject({ name: `Edited ${i}`, steps });
    }
  });
});

describe("names of macros", () => {
  test("no two are alike, whatever their case, and a deleted one may come back only under a name of its own", async () => {
    const { context } = fresh;
    const make = (name: string) => createMacro(context, { name, colour: "slate", steps: [], settings: {} });
    const first = await make("Sort");
    await expect(make("sort")).rejects.toMatchObject({ status: 409 });
    const other = await make("Sorted");
    await expect(changeMacro(context, other.id, { name: "SORT" })).rejects.toMatchObject({ status: 409 });
    await changeMacro(context, first.id, { deleted: true });
    await changeMacro(context, other.id, { name: "SORT" });
    await expect(changeMacro(context, first.id, { deleted: false })).rejects.toMatchObject({ status: 409 });
  });

  test("renaming follows what is named, and not what only reads like it", async () => {
    const { context } = fresh;
    const steps = [
      { do: "only when", narrow: 'folder=Bookings subject~"folder=Bookings please"' },
      { do: "run macro", macro: "Later" },
      { do: "label", add: "Not yet" },
    ] as const;
    const macro = await createMacro(context, {
      name: "Follows",
      colour: "slate",
      steps,
      settings: { for: "!folder=Bookings" },
    });
    const now = async () => (await listMacros(context)).find((one) => one.id === macro.id)!;
    await changeFolder(context, (await folder("Bookings"))!.id, { path: "Beds" });
    expect((await now()).steps[0]).toEqual({ do: "only when", narrow: 'folder=Beds subject~"folder=Bookings please"' });
    expect((await now()).settings.for).toBe("!folder=Beds");
    // Another folder that takes the old name is not what was meant.
    await createFolder(context, { path: "Bookings" });
    expect((await now()).settings.for).toBe("!folder=Beds");
    await changeFolder(context, (await folder("Bookings"))!.id, { path: "Other" });
    await changeFolder(context, (await folder("Beds"))!.id, { path: "Bookings" });
    expect((await now()).steps[0]).toEqual(steps[0]);
    // A name that stands for nothing yet means what is made under it first.
    await createLabel(context, { name: "not yet", colour: "plum" });
    expect((await now()).steps[2]).toEqual({ do: "label", add: "not yet" });
    const later = await createMacro(context, { name: "later", colour: "slate", steps: [], settings: {} });
    await changeMacro(context, later.id, { name: "Much later" });
    expect((await now()).steps[1]).toEqual({ do: "run macro", macro: "Much later" });
  });
});

describe("the store", () => {
  const moves = async (ids: readonly MessageId[], to: number) => {
    const states = await statesOf(ids);
    return {
      states,
      change: changeOf(
        ids.map((message) => ({
          kind: "folder" as const,
          message,
          before: states.get(message)!.folder,
          after: folderId(to),
        })),
      ),
    };
  };

  test.each(["plain", "savepoint"] as const)(
    "knows what it wrote after an earlier write of the same transaction: %s",
    async (where) => {
      const { db, context } = fresh;
      const to = (await folder("Weather"))!.id;
      const ids = (await fillWithMessages(fresh, 2)).map(messageId);
      const [first, second] = ids as [MessageId, MessageId];
      const { states, change } = await moves(ids, to);
      // Somebody who takes no turn has moved the second one since it was read.
      await db.sql`update message_state set folder = 2 where message = ${second}`;
      const write = async (tx: Transaction) => {
        // The same transaction has written that very row before, so that the row's own mark tells nothing.
        await tx`update message_state set bits = bits where message = ${second}`;
        return writeChange(tx, context.person, change, states);
      };
      const done = await db.sql.begin((tx) =>
        where === "plain" ? write(tx as Transaction) : (tx.savepoint((inner) => write(inner as Transaction)) as never),
      );
      expect(done).toMatchObject({ skipped: [{ message: second, cell: "folder", reason: "changed-elsewhere" }] });
      expect([...done.change.messages.keys()]).toEqual([first]);
    },
  );
});
