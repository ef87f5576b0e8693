import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { runId } from "@/core/id";
import {
  blockSender,
  changeSettings,
  changeSimulator,
  dryRun,
  leaveSenders,
  listOutgoing,
  listSenders,
  readEntry,
  readLedger,
  readSimulator,
  runMacro,
  takeBack,
} from "@/server/act";
import { openDatabase } from "@/server/db";
import { isInside, postLeave } from "@/server/gateway";
import { leaveDue } from "@/server/jobs";
import { randomUUID } from "node:crypto";
import { freshDatabase, type Fresh } from "./database";
import { daysAgo, serviceOf } from "./service";

/** Who fills the mailbox, and ending it: lists left by one request, by a letter, or by hand. */

let fresh: Fresh;
let arrives: Awaited<ReturnType<typeof serviceOf>>["arrives"];
beforeAll(async () => {
  fresh = await freshDatabase();
  ({ arrives } = await serviceOf(fresh));
  await changeSettings(fresh.context, { holdSeconds: 0 });
});
afterAll(() => fresh.drop());

const now = () => new Date();
const later = () => new Date(Date.now() + 120_000);
const bulletin = (list: string, way: string, post = "", date = daysAgo(1)) =>
  arrives(
    `Notes <notes@${list}>`,
    "Issue",
    `List-Id: <news.${list}>\r\nList-Unsubscribe: ${way}\r\n${post && `List-Unsubscribe-Post: ${post}\r\n`}`,
    "News.\r\n",
    date,
  );
const CLICK = "List-Unsubscribe=One-Click";
const find = async (source: string) => (await listSenders(fresh.context)).find((one) => one.source === source);
const run = async (steps: object[], ids: readonly number[]) =>
  runMacro(fresh.context, { id: randomUUID(), macro: { name: "x", steps }, target: { ids } } as never);
const left = async () => (await readSimulator(fresh.context)).left;

describe("who writes", () => {
  test("is counted by month, with what became of it; who writes seldom is left out", async () => {
    const ids: number[] = [];
    for (const days of [2, 3, 40, 70, 400])
      ids.push(await bulletin("ridge.example", "<https://ridge.example/l>", CLICK, daysAgo(days)));
    await arrives("Once <once@post.example>", "Hello");
    await run([{ do: "read" }], [ids[2]!]);
    await run([{ do: "trash" }], [ids[0]!]);
    const ridge = (await find("list news.ridge.example"))!;
    // What is older than a year does not count.
    expect(ridge).toMatchObject({
      isList: true,
      total: 4,
      read: 1,
      trashedUnread: 1,
      inbox: 3,
      leaving: null,
      blocked: false,
    });
    expect(ridge.months).toHaveLength(12);
    expect(ridge.months.reduce((a, b) => a + b)).toBe(4);
    expect(ridge.months.slice(0, 8)).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
    expect(ridge.name).toBe("Notes");
    expect(ridge.narrow).toBe("list=news.ridge.example");
    expect(Date.parse(ridge.lastRead!)).toBeCloseTo(Date.parse(daysAgo(40)), -6);
    expect(await find("sender once@post.example")).toBeUndefined();
    // Junk is no reason to do anything more.
    await run([{ do: "junk" }], [ids[1]!]);
    expect((await find("list news.ridge.example"))!.total).toBe(3);
    await blockSender(fresh.context, { address: "notes@ridge.example" });
    expect((await find("list news.ridge.example"))!.blocked).toBe(true);
  });

  test("to a list as several people is no one of them", async () => {
    const headers = "List-Id: <all.circle.example>\r\n";
    for (const who of ["Ida", "Bo", "Ida"])
      await arrives(`${who} <${who.toLowerCase()}@circle.example>`, "Round", headers, "x\r\n", daysAgo(2));
    expect(await find("list all.circle.example")).toMatchObject({ name: "all.circle.example", senders: 2 });
    expect((await find("list news.ridge.example"))!.senders).toBe(1);
  });

  test("whose mail is never read stands first", async () => {
    for (let i = 0; i < 6; i++) await bulletin("loud.example", "<mailto:leave@loud.example>");
    const [first] = await listSenders(fresh.context);
    expect(first).toMatchObject({ source: "list news.loud.example", unreadMonthly: 2 });
  });
});

describe("leaving", () => {
  test("twelve lists asks each once, though it is asked for twice and by two processes; what comes since is counted", async () => {
    for (let n = 0; n < 12; n++)
      for (let i = 0; i < 3; i++) await bulletin(`twelve${n}.example`, `<https://twelve${n}.example/leave>`, CLICK);
    const sources = Array.from({ length: 12 }, (_, n) => `list news.twelve${n}.example`);
    const before = await left();
    const answers = [await leaveSenders(fresh.context, { sources }), await leaveSenders(fresh.context, { sources })];
    expect(answers.map(({ asked }) => asked.length)).toEqual([12, 0]);
    const other = openDatabase(fresh.url, 3);
    await Promise.all([leaveDue(fresh.db, now()), leaveDue(other, now())]);
    await other.close();
    expect(await leaveDue(fresh.db, now())).toBe(0);
    expect((await left()) - before).toBe(12);
    expect((await find(sources[3]!))!.leaving).toMatchObject({ state: "left", how: "click", since: 0 });
    await bulletin("twelve3.example", "<https://twelve3.example/leave>", CLICK, daysAgo(-1));
    expect((await find(sources[3]!))!.leaving).toMatchObject({ state: "left", since: 1 });
    const entries = await readLedger(fresh.context, { limit: 30 });
    expect(entries.filter(({ macro }) => macro.name === "Leave 12 lists")).toHaveLength(1);
    expect(entries.filter(({ macro }) => macro.name === "Left")).toHaveLength(12);
    // Each of them can be read again.
    for (const { id, macro } of entries)
      if (macro.name === "Left") expect((await readEntry(fresh.context, runId(id))).also[0]).toMatch(/^left: list /);
  });

  test("is taken back until it has gone, and not after", async () => {
    await changeSettings(fresh.context, { holdSeconds: 60 });
    for (let i = 0; i < 3; i++) await bulletin("held.example", "<https://held.example/leave>", CLICK);
    const source = "list news.held.example";
    const undoLast = async () => {
      const [entry] = await readLedger(fresh.context, { limit: 1 });
      return takeBack(fresh.context, "undo", runId(entry!.id));
    };
    const before = await left();
    await leaveSenders(fresh.context, { sources: [source] });
    expect(await leaveDue(fresh.db, now())).toBe(0);
    await undoLast();
    expect((await find(source))!.leaving).toBeNull();
    expect(await leaveDue(fresh.db, new Date(Date.now() + 120_000))).toBe(0);
    expect(await left()).toBe(before);
    await leaveSenders(fresh.context, { sources: [source] });
    const [asked] = await readLedger(fresh.context, { limit: 1 });
    expect(await leaveDue(fresh.db, new Date(Date.now() + 120_000))).toBe(1);
    await expect(takeBack(fresh.context, "undo", runId(asked!.id))).rejects.toThrow();
    expect((await find(source))!.leaving).toMatchObject({ state: "left" });
    await changeSettings(fresh.context, { holdSeconds: 0 });
  });

  test("a service that is away is asked again later", async () => {
    for (let i = 0; i < 3; i++) await bulletin("later.example", "<https://later.example/leave>", CLICK);
    await changeSimulator(fresh.context, { mode: "away" });
    await leaveSenders(fresh.context, { sources: ["list news.later.example"] });
    await leaveDue(fresh.db, now());
    expect((await find("list news.later.example"))!.leaving).toMatchObject({ state: "waiting" });
    expect(await leaveDue(fresh.db, now())).toBe(0);
    await changeSimulator(fresh.context, { mode: "well" });
    expect(await leaveDue(fresh.db, new Date(Date.now() + 3_600_000))).toBe(1);
    expect((await find("list news.later.example"))!.leaving).toMatchObject({ state: "left", said: null });
  });

  test("by a letter goes through the outbox; by a page a person goes; and some say no way", async () => {
    for (let i = 0; i < 3; i++) {
      await bulletin("letter.example", "<mailto:leave@letter.example?subject=Stop%20it>");
      await bulletin("page.example", "<https://page.example/leave>");
      await bulletin("none.example", "<>");
    }
    const names = ["letter", "page", "none", "nobody"].map((name) => `list news.${name}.example`);
    await changeSettings(fresh.context, { holdSeconds: 60 });
    expect(await leaveSenders(fresh.context, { sources: names })).toEqual({
      asked: [],
      written: [names[0]],
      pages: [{ source: names[1], page: "https://page.example/leave" }],
      none: [names[2], names[3]],
    });
    // Held back like a request is: nothing is in the outbox that undo would have to look for.
    expect(await listOutgoing(fresh.context)).toEqual([]);
    expect(await leaveDue(fresh.db, now())).toBe(0);
    expect(await leaveDue(fresh.db, later())).toBe(1);
    const [letter] = await listOutgoing(fresh.context);
    expect(letter!.recipients.map(({ address }) => address)).toEqual(["leave@letter.example"]);
    expect(letter!.subject).toBe("Stop it");
    const [from] = await fresh.db.sql<{ from: string }[]>`
      select from_address as from from message where person = ${fresh.context.person} and id = ${letter!.message}`;
    expect(from!.from).toBe("bookings@larchhuts.example");
    expect((await find(names[0]!))!.leaving).toMatchObject({ state: "left", how: "letter" });
    expect(await leaveDue(fresh.db, later())).toBe(0);
  });

  test("by a letter, what says so and the letter are there together, or neither", async () => {
    for (let i = 0; i < 3; i++) await bulletin("torn.example", "<mailto:leave@torn.example>");
    const source = "list news.torn.example";
    await leaveSenders(fresh.context, { sources: [source] });
    const before = (await listOutgoing(fresh.context)).length;
    // The disk is full when the letter is put into the outbox.
    await fresh.db.sql`
      create function no_room() returns trigger language plpgsql as $$ begin raise exception 'no space left'; end $$`;
    await fresh.db.sql`create trigger full_disk before insert on held execute function no_room()`;
    await expect(leaveDue(fresh.db, later())).rejects.toThrow("no space left");
    expect((await find(source))!.leaving).toMatchObject({ state: "waiting" });
    expect(await listOutgoing(fresh.context)).toHaveLength(before);
    await fresh.db.sql`drop trigger full_disk on held`;
    expect(await leaveDue(fresh.db, later())).toBe(1);
    expect((await find(source))!.leaving).toMatchObject({ state: "left" });
    expect(await listOutgoing(fresh.context)).toHaveLength(before + 1);
    expect(
      (await readLedger(fresh.context, { limit: 30 })).filter(
        ({ macro, about }) => macro.name === "Left" && about === source,
      ),
    ).toHaveLength(1);
  });

  test("by a letter that cannot be written is said, and holds up nobody who waits behind it", async () => {
    // What a stranger's header says is an address need not be one.
    for (let i = 0; i < 3; i++) {
      await bulletin("bad.example", "<mailto:-@-..example>");
      await bulletin("good.example", "<https://good.example/leave>", CLICK);
    }
    const before = await left();
    await leaveSenders(fresh.context, { sources: ["list news.bad.example"] });
    await leaveSenders(fresh.context, { sources: ["list news.good.example"] });
    expect(await leaveDue(fresh.db, later())).toBe(2);
    expect((await find("list news.bad.example"))!.leaving).toMatchObject({
      state: "refused",
      said: expect.stringContaining("cannot be an address"),
    });
    expect((await left()) - before).toBe(1);
  });

  test("a macro asks in whichever way the newest message names, once, and is taken back until then", async () => {
    const [click, letter, page] = [
      await bulletin("mclick.example", "<https://mclick.example/leave>", CLICK),
      await bulletin("mletter.example", "<mailto:leave@mletter.example>"),
      await bulletin("mpage.example", "<https://mpage.example/leave>"),
    ];
    const plain = await arrives("Ida <ida@mplain.example>", "No list");
    const none = await bulletin("mnone.example", "<>");
    const ids = [click, letter, page, none, plain];
    const steps = [{ do: "unsubscribe" }, { do: "trash" }];
    const state = async () =>
      Object.fromEntries(
        (
          await fresh.db.sql<{ source: string; state: string; how: string; said: string | null }[]>`
            select source, state, how, said from leaving where source ~ '[.@]m(click|letter|page|none|plain)'`
        ).map(({ source, ...row }) => [source, row]),
      );
    const asked = await run(steps, ids);
    // A letter of somebody is no list.
    expect(asked.skipped.map(({ message, reason }) => [message, reason])).toEqual([[plain, "no-way"]]);
    const waiting = await state();
    expect(Object.keys(waiting)).toHaveLength(4);
    for (const one of Object.values(waiting)) expect(one).toMatchObject({ state: "waiting", how: "look" });
    await takeBack(fresh.context, "undo", runId(asked.entry!.id));
    expect(await state()).toEqual({});
    const before = await left();
    await run(steps, ids);
    await run([{ do: "unsubscribe" }], ids);
    expect(await leaveDue(fresh.db, later())).toBe(4);
    expect((await left()) - before).toBe(1);
    const came = Object.values(await state()).map(({ how, state: is, said }) => [how, is, said]);
    expect(came.sort()).toEqual([
      ["click", "left", null],
      ["letter", "left", null],
      ["look", "refused", "it says no way to leave"],
      ["page", "refused", "it is left on a page of theirs only"],
    ]);
    // What could not be left may be asked once more; what was, is not.
    await run([{ do: "unsubscribe" }], ids);
    expect(await leaveDue(fresh.db, later())).toBe(2);
    const seen = await dryRun(fresh.context, { macro: { name: "x", steps }, target: { ids: [click] } } as never);
    expect(seen.irreversible.join()).toMatch(/asked to send nothing more/);
  });
});

describe("a list of the net", () => {
  test.each([
    "127.0.0.1",
    "10.1.2.3",
    "172.31.0.1",
    "192.168.0.9",
    "169.254.169.254",
    "::1",
    "fd00::1",
    "fe80::1",
    "::ffff:10.0.0.1",
    "0.0.0.0",
    "not an address",
  ])("is not asked at %s, which lies inside", (address) => expect(isInside(address)).toBe(true));
  test.each(["93.184.216.34", "172.32.0.1", "2606:2800:220:1::1"])("may be asked at %s", (address) =>
    expect(isInside(address)).toBe(false),
  );
  test("is not asked without encryption, nor inside, whatever the address looks like", async () => {
    expect(await postLeave("http://ridge.example/leave")).toMatchObject({ is: "refused" });
    expect(await postLeave("https://127.0.0.1:9/leave")).toMatchObject({ is: "refused" });
    expect(await postLeave("https://[::1]:9/leave")).toMatchObject({ is: "refused" });
    expect(await postLeave("https://localhost:9/leave")).toMatchObject({ is: "refused" });
  });
});
