import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { letterAt } from "../../demo/letters";
import { bringMail, changeSimulator, listMessages, readSimulator, runMacro } from "@/server/act";
import { openDatabase, type Database } from "@/server/db";
import { ensureSimulated, receiveDue } from "@/server/gateway";
import { ParsePool, takeMail } from "@/server/jobs";
import { inTurn } from "@/server/run";
import { freshDatabase, WORKER, type Fresh } from "./database";

let fresh: Fresh;
beforeAll(async () => {
  fresh = await freshDatabase();
  await inTurn(fresh.db, fresh.context.person, (tx) => ensureSimulated(tx, fresh.context.person, 0));
});
afterAll(() => fresh.drop());

/** A letter that says which one it is. */
const plain = (n: number, at: Date) =>
  Buffer.from(
    `From: Ines <ines@post.example>\r\nTo: bookings@larchhuts.example\r\nSubject: letter ${n}\r\n` +
      `Date: ${at.toUTCString()}\r\nMessage-ID: <l${n}@post.example>\r\n\r\nWords of ${n}.\r\n`,
  );
/** Nothing comes back in these tests. */
const world = { write: plain, answer: () => Promise.reject(new Error("nothing was sent")) };
const take = (db: Database = fresh.db, now = new Date()) => takeMail(db, () => new ParsePool(WORKER, 1), now);
const subjects = async (narrow = "folder=Inbox") =>
  (await listMessages(fresh.context, { narrow, order: "oldest", limit: 1000, after: null })).rows.map(
    (row) => row.subject,
  );
const letters = (from: number, to: number) => Array.from({ length: to - from }, (_, i) => `letter ${from + i}`);

describe("the simulated service", () => {
  test("brings what it was asked for, once, in order, however many processes take it in", async () => {
    await bringMail(fresh.context, 120);
    const others = [openDatabase(fresh.url, 3), openDatabase(fresh.url, 3)];
    const now = new Date();
    const written = await Promise.all([fresh.db, ...others].map((db) => receiveDue(db, now, world)));
    expect(written.reduce((a, b) => a + b)).toBe(120);
    expect(await readSimulator(fresh.context)).toMatchObject({ made: 120, waiting: 120, trouble: null });
    const taken = await Promise.all([fresh.db, ...others].map((db) => take(db)));
    expect(taken.reduce((a, b) => a + b)).toBe(120);
    expect((await subjects()).sort()).toEqual(letters(0, 120).sort());
    expect(await take()).toBe(0);
    expect(await readSimulator(fresh.context)).toMatchObject({ waiting: 0 });
    await Promise.all(others.map((db) => db.close()));
  });

  test("brings mail by the hour, and after a long rest not all of it at once", async () => {
    await changeSimulator(fresh.context, { rate: 60 });
    const [row] = await fresh.db.sql<{ next: number }[]>`
      select (extract(epoch from next_at) * 1000)::float8 as next from simulator`;
    const next = row!.next;
    const at = (minutes: number) => new Date(next + minutes * 60_000);
    expect(await receiveDue(fresh.db, at(-0.01), world)).toBe(0);
    expect(await receiveDue(fresh.db, at(0), world)).toBe(1);
    expect(await receiveDue(fresh.db, at(0.9), world)).toBe(0);
    expect(await receiveDue(fresh.db, at(3), world)).toBe(3);
    expect(await receiveDue(fresh.db, at(3 + 60 * 24), world)).toBe(20);
    expect(await receiveDue(fresh.db, at(3 + 60 * 24 + 0.5), world)).toBe(0);
    expect(await receiveDue(fresh.db, at(3 + 60 * 24 + 1), world)).toBe(1);
    await changeSimulator(fresh.context, { rate: 0 });
    expect(await receiveDue(fresh.db, at(100_000), world)).toBe(0);
    expect(await take()).toBe(25);
    const dates = (await listMessages(fresh.context, { narrow: "", order: "newest", limit: 25, after: null })).rows;
    expect(dates.map(({ date }) => date).slice(0, 2)).toEqual(
      [3 + 60 * 24 + 1, 3 + 60 * 24].map((minutes) =>
        new Date(Math.floor(at(minutes).getTime() / 1000) * 1000).toISOString(),
      ),
    );
  });

  test("that is away is asked later and later, says so, and loses nothing", async () => {
    await changeSimulator(fresh.context, { mode: "away" });
    await bringMail(fresh.context, 3);
    await receiveDue(fresh.db, new Date(), world);
    const before = (await subjects()).length;
    const start = Date.now() + 1000;
    const asked: number[] = [];
    for (let ms = 0; ms < 20_000; ms += 250) {
      const [was] = await fresh.db.sql<{ failures: number }[]>`select failures from account`;
      expect(await take(fresh.db, new Date(start + ms))).toBe(0);
      const [is] = await fresh.db.sql<{ failures: number }[]>`select failures from account`;
      if (is!.failures > was!.failures) asked.push(ms);
    }
    expect(asked).toEqual([0, 1000, 3000, 7000, 15_000]);
    expect(await readSimulator(fresh.context)).toMatchObject({
      waiting: 3,
      trouble: "The simulated service is away.",
    });
    expect(await subjects()).toHaveLength(before);
    await changeSimulator(fresh.context, { mode: "well" });
    expect(await take()).toBe(3);
    expect(await readSimulator(fresh.context)).toMatchObject({ waiting: 0, trouble: null });
  });

  test("a transaction that is cut off leaves its mail to be taken in again", async () => {
    await bringMail(fresh.context, 2);
    await receiveDue(fresh.db, new Date(), world);
    const before = (await subjects("")).length;
    // Whatever writes last in it fails.
    await fresh.db.sql`
      create function cut() returns trigger language plpgsql as $$ begin raise exception 'cut off'; end $$`;
    await fresh.db.sql`create trigger cut before insert on ledger for each row execute function cut()`;
    await expect(take()).rejects.toThrow("cut off");
    await fresh.db.sql`drop trigger cut on ledger`;
    expect((await subjects("")).length).toBe(before);
    expect(await take()).toBe(2);
    expect((await subjects("")).length).toBe(before + 2);
  });

  test("mail of a blocked sender goes to junk", async () => {
    const [id] = (await listMessages(fresh.context, { narrow: "", order: "oldest", limit: 1, after: null })).rows;
    await runMacro(fresh.context, {
      id: randomUUID(),
      macro: { name: "Block", steps: [{ do: "block sender" }] },
      target: { ids: [id!.id] },
    } as never);
    await bringMail(fresh.context, 1);
    await receiveDue(fresh.db, new Date(), world);
    expect(await take()).toBe(1);
    const { made } = await readSimulator(fresh.context);
    expect(await subjects("folder=Junk")).toEqual([`letter ${made - 1}`]);
  });

  test("a mailbox without one says so", async () => {
    const other = await freshDatabase();
    await expect(readSimulator(other.context)).rejects.toMatchObject({ status: 404 });
    await expect(bringMail(other.context, 1)).rejects.toMatchObject({ status: 404 });
    await other.drop();
  });
});

test("the demo's letters come in whole, all different, and the same again for the same number", async () => {
  const at = new Date("2026-11-26T09:00:00Z");
  const all = Array.from({ length: 200 }, (_, n) => letterAt(n, at));
  expect(new Set(all.map((raw) => Buffer.from(raw).toString("latin1"))).size).toBe(200);
  expect(Buffer.from(letterAt(7, at)).equals(all[7]!)).toBe(true);
  const pool = new ParsePool(WORKER, 1);
  const parsed = await pool.parse(all, at);
  await pool.close();
  expect(parsed.filter(({ parsed: one }) => one.messageId === null || one.from.address === "")).toEqual([]);
  expect(new Set(parsed.map(({ parsed: one }) => one.messageId)).size).toBe(200);
  expect(parsed.every(({ parsed: one }) => one.date.getTime() === at.getTime())).toBe(true);
  expect(parsed.some(({ parsed: one }) => one.from.address.endsWith("@larchhuts.example"))).toBe(true);
  // It comes from elsewhere to the office, not from the office itself.
  expect(parsed.filter(({ parsed: one }) => one.from.address === "bookings@larchhuts.example")).toEqual([]);
});
