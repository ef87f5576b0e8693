import { randomUUID } from "node:crypto";
import { Readable } from "node:stream";
import { afterAll, afterEach, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import {
  changeList,
  changeRule,
  createFolder,
  createHours,
  createLabel,
  createMacro,
  createRule,
  deleteHours,
  deleteMacro,
  deleteRule,
  exceptSenders,
  exportPack,
  importFile,
  importPack,
  listHours,
  listRules,
  readEntry,
  readLedger,
  readList,
  removeFolder,
  changeFolder,
  runMacro,
  standAside,
  takeBack,
  tryOnPast,
} from "@/server/act";
import { doJob, ParsePool } from "@/server/jobs";
import { freshDatabase, WORKER, type Fresh } from "./database";
import { serviceOf } from "./service";

/** What rules do with mail that comes in. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
const macros: Record<string, number> = {};
let label: number;
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await createFolder(fresh.context, { path: "Ferry" });
  label = (await createLabel(fresh.context, { name: "Seen to", colour: "amber" })).id;
  const make = async (name: string, steps: object[]) => {
    macros[name] = (await createMacro(fresh.context, { name, colour: "spruce", steps, settings: {} } as never)).id;
  };
  await make("To ferry", [{ do: "move", to: "Ferry" }]);
  await make("To weather", [{ do: "move", to: "Weather" }]);
  await make("Label it", [{ do: "label", add: "Seen to" }]);
  await make("Read it", [{ do: "read" }]);
  await make("Ask where", [{ do: "move", to: { ask: "folder" } }]);
  await make("Destroy", [{ do: "delete for good" }]);
});
afterAll(() => fresh.drop());
afterEach(async () => {
  for (const { id } of await listRules(fresh.context)) await deleteRule(fresh.context, id);
});

const rule = (narrow: string, macro: string, more: { stop?: boolean; on?: boolean; list?: string } = {}) =>
  createRule(fresh.context, { narrow, macro: macros[macro]!, on: true, stop: false, ...more });
const from = (address: string, subject = "x") => arrives(`X <${address}>`, subject);
const stateOf = async (id: number) => {
  const [row] = await fresh.db.sql<{ path: string; read: boolean; labels: number[] }[]>`
    select f.path, s.bits & 1 = 1 as read, s.labels from message_state s join folder f on f.person = s.person and f.id = s.folder
    where s.person = ${fresh.context.person} and s.message = ${id}`;
  return row!;
};
const place = async (id: number) => (await stateOf(id)).path;
const newest = async (limit = 1) => readLedger(fresh.context, { limit });

describe("on arrival", () => {
  test("a rule does its macro in the transaction that takes mail in, as an entry of its own that is undone exactly", async () => {
    const { id: ferry } = await rule("from=cap@ferry.example", "To ferry");
    const [came, other] = [await from("cap@ferry.example"), await from("cap@tarn.example")];
    expect([await place(came), await place(other)]).toEqual(["Ferry", "Inbox"]);
    const entry = (await newest(4)).find(({ actor }) => actor === "rule")!;
    expect(entry).toMatchObject({ cause: `rule ${ferry}`, kind: "run", messages: 1 });
    expect(entry.macro.name).toBe("To ferry");
    const { changes } = await readEntry(fresh.context, runId(entry.id));
    expect(changes.map(({ message }) => message)).toEqual([came]);
    await takeBack(fresh.context, "undo", runId(entry.id));
    expect(await place(came)).toBe("Inbox");
    expect((await listRules(fresh.context))[0]).toMatchObject({ touched: 1, trouble: null });
    // What is undone by hand stays so: a rule looks at mail once.
    await from("cap@tarn.example");
    expect(await place(came)).toBe("Inbox");
  });

  test("in their order, each seeing what those before have done; one that stops ends it for its messages", async () => {
    await rule("from=a@order.example", "To ferry");
    await rule("folder=Ferry from~order", "Label it");
    await rule("folder=Inbox from~order", "Read it", { stop: true });
    await rule("from~order", "To weather");
    const [a, b] = [await from("a@order.example"), await from("b@order.example")];
    expect(await stateOf(a)).toMatchObject({ path: "Weather", read: false, labels: [label] });
    expect(await stateOf(b)).toMatchObject({ path: "Inbox", read: true, labels: [] });
    const [first] = await listRules(fresh.context);
    await changeRule(fresh.context, first!.id, { position: 3 });
    const moved = await from("a@order.example");
    expect(await stateOf(moved)).toMatchObject({ path: "Inbox", read: true, labels: [] });
  });

  test("switched off it does nothing; words of the text are looked at; aside comes after it, junk before it", async () => {
    const { id } = await rule("stovepipe", "To ferry", { on: false });
    const write = (text: string) => arrives("X <x@words.example>", "Hm", "", `${text}\r\n`);
    expect(await place(await write("The stovepipe fell."))).toBe("Inbox");
    await changeRule(fresh.context, id, { on: true });
    expect(await place(await write("The stovepipe fell."))).toBe("Ferry");
    expect(await place(await write("The stove fell."))).toBe("Inbox");
    await standAside(fresh.context, { sources: ["sender x@words.example"], aside: true });
    expect(await place(await write("The stovepipe fell again."))).toBe("Ferry");
    expect(await place(await write("The stove fell again."))).toBe("Aside");
    await fresh.db.sql`insert into blocked (person, address) values (${fresh.context.person}, 'pest@words.example')`;
    await rule("from~words", "Read it");
    expect(await stateOf(await from("pest@words.example"))).toMatchObject({ path: "Junk", read: false });
  });

  test("one's own mail is left alone, and an import's unless it is asked for", async () => {
    await rule("", "To ferry");
    expect(await place(await arrives("Me <bookings@larchhuts.example>", "To myself"))).toBe("Inbox");
    const pool = new ParsePool(WORKER, 1);
    const places: string[] = [];
    for (const [n, isNews, folder] of [
      [1, false, "Inbox"],
      [2, true, "Inbox"],
      [3, true, "Weather"],
    ] as const) {
      const mbox = `From x Fri Nov 27 00:00:00 2026\nFrom: N <n@import.example>\nSubject: s\nMessage-ID: <r${n}@import.example>\n\nx\n`;
      const job = await importFile(fresh.context, "x", folder, Readable.from([Buffer.from(mbox)]), isNews);
      const [row] = await fresh.db.sql`select * from job where id = ${job}`;
      await doJob(fresh.db, row as never, pool);
      const [message] = await fresh.db.sql<
        { id: number }[]
      >`select id from message where message_id = ${`<r${n}@import.example>`}`;
      places.push(await place(message!.id));
    }
    await pool.close();
    expect(places).toEqual(["Inbox", "Ferry", "Weather"]);
  });
});

describe("a list of senders", () => {
  const listed = async (name: string) => (await readList(fresh.context, name)).addresses;

  test("is whom a rule is for; a macro's step adds to it, once, and undo takes that back", async () => {
    const { id } = await rule("!subject~urgent", "To ferry", { list: "Ferry people" });
    expect((await listRules(fresh.context))[0]).toMatchObject({ list: "Ferry people", senders: 0 });
    const [before, other] = [await from("Cap@Ferry.example"), await from("bo@tarn.example")];
    expect([await place(before), await place(other)]).toEqual(["Inbox", "Inbox"]);
    const add = () =>
      runMacro(fresh.context, {
        id: randomUUID(),
        macro: { name: "Add", steps: [{ do: "add sender to rule", rule: "ferry PEOPLE" }] },
        target: { ids: [before] },
      } as never);
    await add();
    const [entry] = await newest();
    const { changes } = await readEntry(fresh.context, runId(entry!.id));
    expect(JSON.stringify(changes)).toContain("added to ferry people: cap@ferry.example");
    await add();
    expect(await listed("FERRY people")).toEqual(["cap@ferry.example"]);
    expect(await place(await from("cap@FERRY.example"))).toBe("Ferry");
    expect(await place(await from("cap@ferry.example", "Urgent: fog"))).toBe("Inbox");
    expect(await place(await from("bo@tarn.example"))).toBe("Inbox");
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await listed("Ferry people")).toEqual([]);
    expect(await place(await from("cap@ferry.example"))).toBe("Inbox");
    await changeRule(fresh.context, id, { list: null });
    expect(await place(await from("bo@tarn.example"))).toBe("Ferry");
  });

  test("is changed by hand, as one entry that is taken back; who is excepted leaves it", async () => {
    const { id } = await rule("", "To ferry", { list: "By hand" });
    await changeList(fresh.context, "By hand", {
      add: ["A@hand.example", "b@hand.example", "a@hand.example"],
      remove: [],
    });
    expect(await listed("by hand")).toEqual(["a@hand.example", "b@hand.example"]);
    await changeList(fresh.context, "By hand", {
      add: ["c@hand.example"],
      remove: ["a@hand.example", "z@hand.example"],
    });
    expect(await listed("by hand")).toEqual(["b@hand.example", "c@hand.example"]);
    const [entry] = await newest();
    await takeBack(fresh.context, "undo", runId(entry!.id));
    expect(await listed("by hand")).toEqual(["a@hand.example", "b@hand.example"]);
    const message = await from("b@hand.example");
    expect(await place(message)).toBe("Ferry");
    const after = await exceptSenders(fresh.context, id, [message]);
    expect(after).toMatchObject({ narrow: "", senders: 1 });
    expect(await place(await from("b@hand.example"))).toBe("Inbox");
    expect(await place(await from("a@hand.example"))).toBe("Ferry");
  });

  test("is looked at in a trial on the past too", async () => {
    await changeList(fresh.context, "Tried", { add: ["t@tried.example"], remove: [] });
    await from("t@tried.example");
    await from("u@tried.example");
    const trial = (list?: string) =>
      tryOnPast(fresh.context, {
        narrow: "from~tried",
        macro: macros["To ferry"]!,
        months: 240,
        ...(list ? { list } : {}),
      });
    const sum = ({ months }: Awaited<ReturnType<typeof trial>>) =>
      months.reduce((all, { nothing }) => all + nothing, 0);
    expect([sum(await trial()), sum(await trial("TRIED"))]).toEqual([2, 1]);
  });
});

describe("what cannot be done", () => {
  test("is said before: a condition that is none, a macro that asks, deletes for good or is not there", async () => {
    await expect(rule("from=", "To ferry")).rejects.toMatchObject({ status: 400 });
    await expect(rule("from=x", "Ask where")).rejects.toThrow("Ask where: It asks, and nobody is there to answer.");
    await expect(rule("from=x", "Destroy")).rejects.toThrow("cannot be undone");
    await expect(createRule(fresh.context, { narrow: "", macro: 999, on: true, stop: false })).rejects.toMatchObject({
      status: 404,
    });
    expect(await listRules(fresh.context)).toEqual([]);
  });

  test("is left out with its reason, the mail comes in and other rules are done; after three times it is off", async () => {
    const gone = await createMacro(fresh.context, {
      name: "Passing",
      colour: "spruce",
      steps: [{ do: "read" }],
      settings: {},
    });
    const { id } = await createRule(fresh.context, { narrow: "from~trouble", macro: gone.id, on: true, stop: false });
    await rule("from~trouble", "To ferry");
    await deleteMacro(fresh.context, gone.id);
    for (const left of [true, true, false]) {
      expect(await stateOf(await from("x@trouble.example"))).toMatchObject({ path: "Ferry", read: false });
      const [first] = await listRules(fresh.context);
      expect(first).toMatchObject({ on: left, macro: null, trouble: "Its macro was deleted." });
    }
    await expect(changeRule(fresh.context, id, { on: true })).rejects.toThrow("Choose another");
    const mended = await changeRule(fresh.context, id, { macro: macros["Read it"]!, on: true });
    expect(mended).toMatchObject({ on: true, trouble: null });
    expect((await stateOf(await from("x@trouble.example"))).read).toBe(true);
  });

  test("one that cannot even be read keeps no mail out, and no other rule from being done", async () => {
    const { id } = await rule("from~broken", "Read it", { stop: true });
    await rule("from~broken", "To ferry");
    await fresh.db.sql`update rule set narrow = '{}' where id = ${id}`;
    expect(await stateOf(await from("x@broken.example"))).toMatchObject({ path: "Ferry", read: false });
    await fresh.db.sql`update rule set narrow = '"from~broken"' where id = ${id}`;
    const [first] = await listRules(fresh.context);
    expect(first!.trouble).toBe("Something went wrong in it that is no fault of yours.");
  });

  test("a macro that came to ask since is not done; what it had begun is not left half done", async () => {
    const steps = [{ do: "read" }, { do: "run macro", macro: "Inner" }];
    const inner = await createMacro(fresh.context, {
      name: "Inner",
      colour: "spruce",
      steps: [{ do: "owe" }],
      settings: {},
    } as never);
    const outer = await createMacro(fresh.context, { name: "Outer", colour: "spruce", steps, settings: {} } as never);
    await createRule(fresh.context, { narrow: "from~later", macro: outer.id, on: true, stop: true });
    await rule("from~later", "To ferry");
    expect(await stateOf(await from("x@later.example"))).toMatchObject({ read: true, path: "Inbox" });
    await fresh.db.sql`update macro set steps = '[{"do":"move","to":{"ask":"folder"}}]' where id = ${inner.id}`;
    // Nor does it stop those after it.
    expect(await stateOf(await from("x@later.example"))).toMatchObject({ read: false, path: "Ferry" });
    expect((await listRules(fresh.context))[0]!.trouble).toBe("It asks, and nobody is there to answer.");
  });
});

test("senders that several windows except at once are all excepted", async () => {
  const { id } = await rule("from~one.example", "To ferry");
  const names = ["a", "b", "c", "d", "e"];
  const ids: number[] = [];
  for (const name of names) ids.push(await from(`${name}@one.example`));
  await Promise.all(ids.map((message) => exceptSenders(fresh.context, id, [message])));
  for (const name of names) expect(await place(await from(`${name}@one.example`, "again"))).toBe("Inbox");
  expect(await place(await from("f@one.example"))).toBe("Ferry");
});

test("a sender is excepted from a rule once, whatever its condition is", async () => {
  const { id } = await rule("from~one.example | from~two.example", "To ferry");
  const kept = await from("keep@one.example");
  const other = await from("other@two.example");
  await exceptSenders(fresh.context, id, [kept]);
  const { narrow } = await exceptSenders(fresh.context, id, [kept]);
  expect(narrow).toBe("(from~one.example | from~two.example) !from=keep@one.example");
  expect(await place(await from("keep@one.example", "again"))).toBe("Inbox");
  expect(await place(await from("other@two.example", "again"))).toBe("Ferry");
  expect(await place(other)).toBe("Ferry");
});

test("a rule that was deleted does nothing, and comes back as it was where it stood", async () => {
  const first = await rule("from~back", "To ferry");
  await rule("from~back", "To weather");
  await deleteRule(fresh.context, first.id);
  await expect(deleteRule(fresh.context, first.id)).rejects.toMatchObject({ status: 404 });
  await expect(changeRule(fresh.context, first.id, { on: false })).rejects.toMatchObject({ status: 404 });
  expect(await place(await from("x@back.example"))).toBe("Weather");
  await changeRule(fresh.context, first.id, { deleted: false });
  expect((await listRules(fresh.context))[0]).toMatchObject({ id: first.id, narrow: "from~back", on: true });
});

test("names in conditions follow their folders; who runs the same by hand gets the same", async () => {
  await rule("folder=Inbox from~follow", "To weather");
  const came = await from("x@follow.example");
  expect(await place(came)).toBe("Weather");
  const [entry] = (await newest(3)).filter(({ actor }) => actor === "rule");
  const theirs = await readEntry(fresh.context, runId(entry!.id));
  await takeBack(fresh.context, "undo", runId(entry!.id));
  const { entry: mine } = await runMacro(fresh.context, {
    id: randomUUID(),
    macro: macros["To weather"]!,
    target: { ids: [came] },
  } as never);
  const byHand = await readEntry(fresh.context, runId(mine!.id));
  const edits = ({ changes }: typeof theirs) =>
    changes.map(({ message, before, after, made }) => ({ message, before, after, made }));
  expect(edits(byHand)).toEqual(edits(theirs));
});

describe("what conditions name", () => {
  const conditions = async () => {
    const [rules, { hours }] = [await listRules(fresh.context), await listHours(fresh.context)];
    return [...rules.map(({ narrow }) => narrow), ...hours.map(({ narrow, through }) => `${narrow} / ${through}`)];
  };

  test("follows folders that are renamed, and those that are merged into another", async () => {
    const { id } = await createFolder(fresh.context, { path: "Passes" });
    await rule("folder=Passes", "Label it", { on: false });
    const { id: hours } = await createHours(fresh.context, {
      narrow: "folder=Passes",
      through: "!folder=Passes",
      week: [],
      on: false,
    });
    await changeFolder(fresh.context, id, { path: "Passes over" });
    expect(await conditions()).toEqual(['folder="Passes over"', 'folder="Passes over" / !folder="Passes over"']);
    await removeFolder(fresh.context, id, { to: "Ferry", merge: true });
    expect(await conditions()).toEqual(["folder=Ferry", "folder=Ferry / !folder=Ferry"]);
    await deleteHours(fresh.context, hours);
  });

  test("goes along in a pack, whose rules come switched off", async () => {
    await rule("folder=Ferry from~ferry", "To ferry", { list: "Crew", stop: true });
    const pack = await exportPack(fresh.context, "Mine", [macros["To ferry"]!]);
    expect(pack.rules).toMatchObject([{ macro: "To ferry", list: "Crew", narrow: "folder=Ferry from~ferry" }]);
    const request = { pack: JSON.stringify(pack), dry: true, choices: {} };
    const said = await importPack(fresh.context, request as never);
    expect(said.rules).toEqual(["folder=Ferry from~ferry: To ferry 2"]);
    await importPack(fresh.context, { ...request, dry: false } as never);
    const [, taken] = await listRules(fresh.context);
    expect(taken).toMatchObject({ on: false, stop: true, list: "Crew", narrow: "folder=Ferry from~ferry" });
    expect(taken!.macro).not.toBe(macros["To ferry"]);
  });
});
