import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { messageId, runId } from "@/core/id";
import type { Step } from "@/core/macro";
import {
  changeMacro,
  changeSettings,
  changeTask,
  createMacro,
  dryRun,
  exportPack,
  importPack,
  listFolders,
  listMacros,
  listTasks,
  readEntry,
  readLedger,
  changeFolder,
  runMacro,
  takeBack,
} from "@/server/act";
import { readRun, readStates } from "@/server/store";
import { keepLedger } from "@/server/jobs";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

let fresh: Fresh;
let ids: number[];
beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 120);
});
afterAll(() => fresh.drop());

const run = (steps: readonly Step[], target: object, more: object = {}) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "Test", steps, ...more }, target } as never);
const undo = (entry: { id: string }) => takeBack(fresh.context, "undo", runId(entry.id));
const stateOf = async (id: number) =>
  (await readStates(fresh.db.sql, fresh.context.person, [messageId(id)])).get(messageId(id));
const count = async (table: string) =>
  (await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from ${fresh.db.sql(table)}`)[0]!.n;

describe("steps on the server", () => {
  test("conditions and values from the message are as in the planner", async () => {
    const some = ids.slice(0, 14);
    const answer = await run(
      [
        { do: "only when", narrow: "from~s3" },
        { do: "note", text: { pattern: "number (?P<n>\\d+)", in: "subject", group: "n" } },
      ],
      { ids: some },
    );
    expect(answer.changed).toBe(2);
    expect(answer.skipped.every((skip) => skip.reason === "only-when" && skip.step === 1)).toBe(true);
    const changed = some.filter((id) => !answer.skipped.some((skip) => skip.message === id));
    expect((await stateOf(changed[0]!))!.note).toMatch(/^\d+$/);
    await undo(answer.entry!);
    expect((await stateOf(changed[0]!))!.note).toBeNull();
  });

  test("the text of a message is read where a step needs it", async () => {
    await fresh.db
      .sql`update content set raw = ${Buffer.from("Subject: x\r\n\r\nWe arrive on 3 February 2027, and pay EUR 45.50.\r\n")}
      where id = (select content from message where id = ${ids[20]!})`;
    const answer = await run([{ do: "flag", due: { take: "date in text" }, note: { take: "amount in text" } }], {
      ids: [ids[20]!, ids[21]!],
    });
    expect((await stateOf(ids[20]!))!.flag).toMatchObject({ due: "2027-02-03T08:00:00.000Z", note: "EUR 45.50" });
    expect(answer.skipped).toMatchObject([{ message: ids[21], reason: "no-value" }]);
  });

  test("tasks, contacts and blocked senders are made once, and go again with undo unless somebody changed them", async () => {
    const some = ids.slice(0, 7);
    const steps: Step[] = [{ do: "make task", due: "+1d" }, { do: "add contact" }, { do: "block sender" }];
    const first = await run(steps, { ids: some });
    expect(first.changed).toBe(7);
    expect([await count("task"), await count("contact"), await count("blocked")]).toEqual([7, 7, 7]);
    const second = await run([{ do: "add contact" }], { ids: some });
    expect(second.changed).toBe(0);
    const [task] = await listTasks(fresh.context);
    await changeTask(fresh.context, task!.id, { title: "Ring them", done: true });
    const back = await undo(first.entry!);
    expect(back.skipped).toEqual([{ message: task!.message, cell: `task:${task!.id}`, reason: "changed-elsewhere" }]);
    expect([await count("task"), await count("contact"), await count("blocked")]).toEqual([1, 0, 0]);
    await takeBack(fresh.context, "redo", runId(first.entry!.id));
    expect([await count("task"), await count("contact"), await count("blocked")]).toEqual([7, 7, 7]);
  });

  test("deleted for good is gone with its source, keeps its tasks, and undo says it cannot", async () => {
    const [a, b] = [ids[30]!, ids[31]!];
    const contents = await count("content");
    await run([{ do: "copy", to: "Weather" }], { ids: [b] });
    const dry = await dryRun(fresh.context, {
      id: randomUUID(),
      macro: { name: "x", steps: [{ do: "delete for good" }] },
      target: { ids: [a, b] },
    } as never);
    expect(dry).toMatchObject({ undoable: false, irreversible: [expect.stringContaining("2 messages")] });
    const answer = await run([{ do: "make task" }, { do: "delete for good" }], { ids: [a, b] });
    expect(answer.changed).toBe(2);
    expect(await stateOf(a)).toBeUndefined();
    // The source of the copied one is still needed by its copy.
    expect(await count("content")).toBe(contents - 1);
    expect((await listTasks(fresh.context)).filter((task) => task.about.includes("number"))).not.toHaveLength(0);
    const back = await undo(answer.entry!);
    expect(back.skipped.map((skip) => [skip.message, skip.reason])).toEqual(
      expect.arrayContaining([
        [a, "gone"],
        [b, "gone"],
      ]),
    );
  });

  test("a macro on threads takes along what is in the same folders, and not own mail; or everything everywhere", async () => {
    const { db, context } = fresh;
    const [one, two, filed, mine, other] = (await fillWithMessages(fresh, 5)) as [
      number,
      number,
      number,
      number,
      number,
    ];
    await db.sql`update message set thread = ${one} where id = any(${[one, two, filed, mine]}::bigint[])`;
    await db.sql`update message set traits = traits | 64 where id = ${mine}`;
    await run([{ do: "move", to: "Weather" }], { ids: [filed] });
    const meant = async (whole: string, ...ids: number[]) => {
      const answer = await run([{ do: "toggle read" }], { ids }, { settings: { whole } });
      const { written } = await readRun(db.sql, context.person, runId(answer.entry!.id));
      return [...written.messages.keys()].sort((a, b) => a - b);
    };
    expect(await meant("thread", two)).toEqual([one, two]);
    expect(await meant("thread", filed)).toEqual([filed]);
    expect(await meant("thread", filed, other, one)).toEqual([one, two, filed, other]);
    expect(await meant("thread", mine)).toEqual([one, two, mine]);
    expect(await meant("thread everywhere", two)).toEqual([one, two, filed, mine]);
  });
});

describe("macros", () => {
  test("are counted, run each other, and follow a rename of folders and of each other", async () => {
    const inner = await createMacro(fresh.context, {
      name: "Inner",
      colour: "spruce",
      steps: [{ do: "move", to: "Weather" }],
      settings: { for: "!folder=Weather" },
    });
    const outer = await createMacro(fresh.context, {
      name: "Outer",
      colour: "spruce",
      steps: [{ do: "run macro", macro: "Inner" }],
      settings: {},
    });
    await runMacro(fresh.context, { id: randomUUID(), macro: outer.id, target: { ids: [ids[50]!] } } as never);
    const weather = (await listFolders(fresh.context)).find((f) => f.path === "Weather")!;
    expect((await stateOf(ids[50]!))!.folder).toBe(weather.id);
    await changeMacro(fresh.context, inner.id, { name: "Innermost" });
    await changeFolder(fresh.context, weather.id, { path: "Wind and weather" });
    const now = await listMacros(fresh.context);
    expect(now.find((m) => m.id === outer.id)).toMatchObject({
      uses: 1,
      usedAt: expect.any(String),
      steps: [{ do: "run macro", macro: "Innermost" }],
    });
    expect(now.find((m) => m.id === inner.id)).toMatchObject({
      steps: [{ do: "move", to: "Wind and weather" }],
      settings: { for: '!folder="Wind and weather"' },
    });
    await changeMacro(fresh.context, outer.id, { position: 0 });
    expect((await listMacros(fresh.context))[0]!.id).toBe(outer.id);
  });
});

describe("the ledger", () => {
  test("is found by message and by macro, and tells what each entry changed", async () => {
    const macro = await createMacro(fresh.context, {
      name: "Mark",
      colour: "plum",
      steps: [
        { do: "label", add: "Invoice" },
        { do: "move", to: "Bookings" },
      ],
      settings: {},
    });
    const target = { ids: ids.slice(60, 63) };
    await runMacro(fresh.context, { id: randomUUID(), macro: macro.id, target } as never);
    await run([{ do: "pin" }], { ids: ids.slice(61, 65) });
    const of = async (message: number) =>
      (await readLedger(fresh.context, { limit: 50, message: messageId(message) })).map((e) => e.macro.name);
    expect(await of(ids[60]!)).toEqual(["Mark"]);
    expect(await of(ids[61]!)).toEqual(["Test", "Mark"]);
    expect(await of(ids[64]!)).toEqual(["Test"]);
    const [entry] = await readLedger(fresh.context, { limit: 5, macro: macro.id });
    const detail = await readEntry(fresh.context, runId(entry!.id));
    expect(detail.changes).toHaveLength(3);
    expect(detail.changes[0]).toMatchObject({
      before: { folder: "Inbox", labels: [] },
      after: { folder: "Bookings", labels: ["Invoice"] },
      subject: expect.stringContaining("number"),
    });
  });

  test("is kept as long as the person says", async () => {
    const before = (await readLedger(fresh.context, { limit: 500 })).length;
    await fresh.db.sql`update ledger set at = now() - interval '40 days' where seq = (select min(seq) from ledger)`;
    expect(await keepLedger(fresh.db, fresh.context, new Date())).toBe(0);
    await changeSettings(fresh.context, { ledgerDays: 30 });
    expect(await keepLedger(fresh.db, fresh.context, new Date())).toBe(1);
    expect(await readLedger(fresh.context, { limit: 500 })).toHaveLength(before - 1);
  });
});

describe("packs", () => {
  test("carry macros with all they name to another mailbox, and say what clashes", async () => {
    const pack = await exportPack(fresh.context, "Ours", []);
    const other = await freshDatabase();
    try {
      const text = JSON.stringify(pack);
      const said = await importPack(other.context, { pack: text, choices: {}, dry: true });
      expect(said.clashes).toContain("Archive");
      expect(said.missingFolders).toEqual(["Wind and weather"]);
      const before = (await listMacros(other.context)).length;
      const done = await importPack(other.context, {
        pack: text,
        choices: {
          clashes: Object.fromEntries(said.clashes.map((name) => [name, name === "Archive" ? "replace" : "leave"])),
          folders: { "Wind and weather": "Weather" },
        },
      });
      expect(done.macros).toContainEqual({ name: "Archive", replaces: expect.any(Number), steps: "read · archive" });
      const now = await listMacros(other.context);
      expect(now).toHaveLength(before + done.macros.length - 1);
      expect(now.find((m) => m.name === "Innermost")).toMatchObject({ steps: [{ do: "move", to: "Weather" }] });
    } finally {
      await other.drop();
    }
  });
  test.each([
    ["not JSON", /not JSON/],
    ['{"kind":"something else"}', /not a macro pack/],
    ['{"kind":"tachyne macro pack","version":9}', /version 9/],
    ['{"kind":"tachyne macro pack","version":1,"name":"x"}', /cannot be read at its macros/],
  ])("a file that is none is refused with the reason: %s", async (text, why) => {
    await expect(importPack(fresh.context, { pack: text, choices: {} })).rejects.toThrow(why);
  });
});
