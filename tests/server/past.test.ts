import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { runId } from "@/core/id";
import { readDay } from "@/core/pace";
import { readLedger, readPace, takeBack } from "@/server/act";
import { keepPace } from "@/server/pace";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";

/** The past that a demo is given: decisions of days that are over, written down after the mail came in. */

const DAY_MS = 86_400_000;
const NOON = Date.parse("2026-11-20T12:00:00Z");
const daysAgo = (days: number) => new Date(NOON - days * DAY_MS).toISOString();

let fresh: Fresh;
let folder: string;
beforeAll(async () => {
  fresh = await freshDatabase();
  folder = mkdtempSync(join(tmpdir(), "tachyne-past-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true });
  await fresh.drop();
});

test("what was decided is in the ledger and in the figures from its day on, also where these were begun before", async () => {
  const { db, context } = fresh;
  const [weather] = await db.sql<{ id: number }[]>`select id from folder where path = 'Weather'`;
  const ids = await fillWithMessages(fresh, 6, weather!.id);
  await fillWithMessages(fresh, 2);
  await db.sql`update message set message_id = 'm' || id || '@post.example', date = ${daysAgo(40)}`;
  await keepPace(db, context.person, context.zone);
  const before = await readPace(context, query(), new Date(NOON));
  expect(before.forecast).toBeNull();

  const ago = [30, 20, 10, 2];
  const runs = ago.map((days, i) => ({
    at: daysAgo(days),
    hand: i === 1 ? "swipe" : "key",
    folder: "Weather",
    // What is not there any more, and what lies elsewhere, was decided by nobody.
    messages: i === 0 ? ids.slice(0, 3).map(named) : [named(ids[2 + i]!), "gone@post.example"],
  }));
  const elsewhere = { at: daysAgo(1), hand: "key", folder: "Bookings", messages: ids.map(named) };
  writeFileSync(join(folder, "past.json"), JSON.stringify([...runs, elsewhere]));
  execFileSync(process.execPath, ["dist/past.mjs", join(folder, "past.json")], {
    env: { ...process.env, DATABASE_URL: fresh.url },
    stdio: "ignore",
  });

  const entries = await readLedger(context, { limit: 10 });
  expect(entries.map(({ at, changed, macro }) => [at, changed, macro.name])).toEqual(
    [...ago].reverse().map((days, i) => [daysAgo(days), i === 3 ? 3 : 1, "To Weather"]),
  );
  const told = await readPace(context, query(), new Date(NOON));
  expect(told.since).toBe(daysAgo(30).slice(0, 10));
  expect(told.flow.filter(({ decided }) => decided > 0).map(({ at, decided }) => [at, decided])).toEqual(
    ago.map((days, i) => [daysAgo(days).slice(0, 10), i === 0 ? 3 : 1]),
  );
  // Of thirty days that are known something can be told ahead.
  expect(told.forecast).not.toBeNull();
  expect(told.place.open).toBe(2);

  // It is taken back like anything else.
  await takeBack(context, "undo", runId(entries[0]!.id));
  const [moved] = await db.sql<{ n: number }[]>`
    select count(*)::int as n from message_state s join folder f on f.id = s.folder and f.person = s.person where f.role = 'inbox'`;
  expect(moved!.n).toBe(3);
});

const named = (id: number) => `m${id}@post.example`;
const query = () =>
  ({
    from: readDay(daysAgo(45).slice(0, 10))!,
    to: readDay(daysAgo(0).slice(0, 10))!,
    by: "day",
    place: null,
    account: null,
    until: null,
  }) as const;
