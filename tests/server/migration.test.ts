import { readFileSync } from "node:fs";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { messageId, runId } from "@/core/id";
import {
  changeLabel,
  listBatches,
  listFolders,
  listMacros,
  listMessages,
  readLedger,
  readHome,
  readSettings,
  changeFolder,
  takeBack,
} from "@/server/act";
import { migrateDatabase } from "@/server/db";
import { clearAway, wakeDue } from "@/server/jobs";
import { everybody, inTurn, settleNames } from "@/server/run";
import { readStates } from "@/server/store";
import { emptyDatabase, MIGRATIONS, type Fresh } from "./database";

/**
 * A database as the version before left it: runs that made things, one taken back in part, a deletion, what trash
 * let go, a folder and a label removed, three macros of one name, words and an upload left behind.
 */
const DUMP = new URL("dumps/version-6.sql", import.meta.url);

let fresh: Fresh;
beforeAll(async () => {
  fresh = await emptyDatabase(readFileSync(DUMP, "utf8"));
  await fresh.db.sql`
    update message_state set defer_until = '2026-11-20T08:00:00Z' where message = (select min(message) from message_state)`;
  await fresh.db.sql`
    insert into thread_subject (person, subject, thread) select distinct on (thread) person, 'beds ' || thread, thread from message`;
  await fresh.db.sql`update deck set extra = '[{"keys": "KeyN KeyO", "macro": 1}]' where number = 1`;
  await fresh.db.sql`insert into message_words select person, id, '''larch'':1A'::tsvector from message`;
  await migrateDatabase(fresh.url, MIGRATIONS);
  for (const { person } of await everybody(fresh.db)) await inTurn(fresh.db, person, (tx) => settleNames(tx, person));
});
afterAll(() => fresh.drop());

const entries = () => readLedger(fresh.context, { limit: 500 });
const entry = async (name: string) => (await entries()).find((one) => one.macro.name === name && one.kind === "run")!;
const undo = (id: string) => takeBack(fresh.context, "undo", runId(id));
const count = async (narrow: string) =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 1, after: null })).total;

describe("a database of the version before", () => {
  test("has its runs with who made them, how much they left alone and what can still be taken back", async () => {
    const shown = Object.fromEntries(
      (await entries()).map((e) => [`${e.kind} ${e.macro.name}`, [e.actor, e.state, e.restorable]]),
    );
    expect(shown).toMatchObject({
      "run Gone": ["person", "done", 0],
      "run Trash: kept for 30 days": ["keeper", "done", 0],
      "run Known": ["person", "done", 2],
      "run Partly": ["person", "partly undone", 1],
      "run Two steps": ["person", "done", 12],
    });
    expect((await readHome(fresh.context)).ledger.length).toBeGreaterThan(5);
  });

  test("takes back what was made then: things, copies, moves", async () => {
    const { sql } = fresh.db;
    expect((await sql`select 1 from contact`).length).toBe(1);
    await undo((await entry("Known")).id);
    expect((await sql`select 1 from contact union all select 1 from blocked`).length).toBe(0);
    const moved = await entry("Two steps");
    expect(await count("folder=Bookings/Groups")).toBe(4);
    expect((await sql`select 1 from task`).length).toBe(4);
    // Their label was removed since, so that much of it is no longer as it left it.
    await undo(moved.id);
    expect(await count("folder=Bookings/Groups")).toBe(0);
    expect((await sql`select 1 from task`).length).toBe(0);
  });

  test("brings removed folders and labels back with their run", async () => {
    const { context } = fresh;
    const names = async () => (await listFolders(context)).map((folder) => folder.path);
    expect(await names()).not.toContain("Weather");
    const removed = await entry("Remove folder Weather");
    expect(removed.restorable).toBe(2);
    await undo(removed.id);
    expect(await names()).toContain("Weather");
    expect(await count("folder=Weather")).toBe(1);
    await undo((await entry("Remove label Invoice")).id);
    expect((await readHome(context)).labels.map((label) => label.name)).toContain("Invoice");
  });

  test("has no two macros of one name, and what named things follows them from now on", async () => {
    const { context } = fresh;
    const mine = async () => (await listMacros(context)).filter((macro) => /^groups/i.test(macro.name));
    expect((await mine()).map((macro) => macro.name)).toEqual(["Groups", "Groups (2)", "groups (3)"]);
    await changeFolder(context, (await listFolders(context)).find((f) => f.path === "Bookings")!.id, { path: "Beds" });
    const [first, , third] = await mine();
    expect(first).toMatchObject({
      steps: [
        { do: "only when", narrow: 'folder=Beds subject~"folder=Bookings please"' },
        { do: "move", to: "Beds/Groups" },
      ],
      settings: { for: "label=Invoice | folder=Nowhere" },
    });
    // It ran the first of that name, and still does; what named nothing stays as it was written.
    expect(third!.steps).toEqual([
      { do: "run macro", macro: "Groups" },
      { do: "move", to: "Gone away" },
    ]);
    const winter = (await readHome(context)).labels.find((label) => label.name === "Winter season")!;
    await changeLabel(context, winter.id, { name: "Snow" });
    expect((await listBatches(context))[0]?.narrow).toBe("folder=Beds & label=Snow marker=R");
  });

  test("will learn from where mail is filed, has no words of messages that are no more, and makes words anew", async () => {
    const { sql } = fresh.db;
    const noted = await sql<{ message: number }[]>`select distinct message from filing_due order by 1`;
    const filed = await sql<{ message: number }[]>`
      select s.message from message_state s join folder o on o.person = s.person and o.id = s.folder and o.role is null
        join message m on m.person = s.person and m.id = s.message and m.traits & 64 = 0 order by 1`;
    expect(filed.length).toBeGreaterThan(0);
    expect(noted.map(({ message }) => message)).toEqual(expect.arrayContaining(filed.map(({ message }) => message)));
    // Only words of messages that are there, and all of those.
    expect((await sql`select message from message_words order by 1`).map((row) => Number(row.message))).toEqual(
      (await sql`select id from message order by 1`).map((row) => Number(row.id)),
    );
    expect((await sql`select through from word_index`)[0]).toEqual({ through: 0 });
    expect((await sql`select 1 from job where state = 'receiving'`).length).toBe(1);
    await clearAway(fresh.db);
    expect((await sql`select 1 from job where state = 'receiving' union all select 1 from job_chunk`).length).toBe(0);
  });

  test("is migrated once: doing it again changes nothing", async () => {
    const before = await entries();
    await migrateDatabase(fresh.url, MIGRATIONS);
    expect(await entries()).toEqual(before);
    const [state] = await readStates(fresh.db.sql, fresh.context.person, [messageId(1)]);
    expect(state).toBeDefined();
  });
});

test("keys in a row that begin with N go on working: nothing of the frame is put before them", async () => {
  expect((await readSettings(fresh.context)).frame).toEqual({ compose: [] });
});

test("what was deferred before there were timers comes back, and subjects are known by whom they were met with", async () => {
  const { sql } = fresh.db;
  expect(await count("deferred")).toBe(1);
  expect(await wakeDue(fresh.db, new Date("2026-11-20T08:00:00Z"))).toBe(1);
  expect([await count("deferred"), await count("returned")]).toEqual([0, 1]);
  const met = await sql<{ address: string; seen: Date }[]>`select address, seen from thread_subject`;
  expect(met.length).toBeGreaterThan(0);
  const own = await sql`select 1 from thread_subject t join message m on m.thread = t.thread and m.traits & 64 = 0
    and lower(m.from_address) = t.address and m.date <= t.seen`;
  expect(own.length).toBeGreaterThanOrEqual(met.length);
});
