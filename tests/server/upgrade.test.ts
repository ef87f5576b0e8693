import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { randomUUID } from "node:crypto";
import { afterAll, beforeAll, expect, test } from "vitest";
import { personId, runId } from "@/core/id";
import { begin, listMessages, runMacro, type Context } from "@/server/act";
import { migrateDatabase, openWalled, type Database } from "@/server/db";
import { emptyDatabase, fillWithMessages, MIGRATIONS, type Fresh } from "./database";

/**
 * A database is brought to this version while processes of the one before run on it: what they ask is answered, before,
 * in between and afterwards. What it is about is migration 0034, which puts another table in the place of one.
 */
const BEFORE = 34;
const COUNT = 3000;

let folder: string;
let fresh: Fresh;
let gate: Database;
let context: Context;
let ids: number[];

beforeAll(async () => {
  folder = mkdtempSync("/var/tmp/tachyne-upgrade-");
  cpSync(MIGRATIONS, folder, { recursive: true });
  const journal = join(folder, "meta", "_journal.json");
  const { entries, ...rest } = JSON.parse(readFileSync(journal, "utf8")) as { entries: { idx: number }[] };
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.filter(({ idx }) => idx < BEFORE) }));
  fresh = await emptyDatabase("");
  await migrateDatabase(fresh.url, folder);
  const home = { name: "x", address: "x@larchhuts.example", aliases: [], zone: "UTC", folders: [], labels: [] };
  await begin(fresh.db, home);
  // Of eighteen people, so that some are in one part with others.
  await fresh.db
    .sql`insert into person (id, name, address, zone) select n, 'x', n || '@larchhuts.example', 'UTC' from generate_series(2, 18) n`;
  ids = await fillWithMessages(fresh, COUNT);
  await fresh.db.sql`
    insert into message_words select n, m, to_tsvector('simple', 'larch number' || m) from unnest(${ids}::bigint[]) m, generate_series(1, 18) n`;
  await fresh.db.sql`insert into word_index (person, through) values (1, ${ids.at(-1)!})`;
  gate = openWalled(fresh.url, 4);
  context = { db: gate.as(personId(1)), person: personId(1), zone: "UTC" };
});
afterAll(async () => {
  await gate.close();
  await fresh.drop();
  rmSync(folder, { recursive: true });
});

test("what is asked meanwhile is answered as before", { timeout: 120_000 }, async () => {
  const words = async () =>
    (
      await fresh.db.sql<{ n: number; text: string }[]>`
      select count(*)::int as n, md5(string_agg(w::text, '|' order by person, message)) as text from message_words w`
    )[0];
  const there = await words();
  let isOver = false;
  const asked = { read: 0, written: 0, found: new Set<number>() };
  const reads = async () => {
    for (; !isOver; asked.read++) {
      const { rows } = await listMessages(context, { narrow: "larch", order: "oldest", limit: 50, after: null });
      asked.found.add(rows.length);
    }
  };
  const writes = async () => {
    for (; !isOver; asked.written++) {
      const target = { ids: [ids[asked.written % COUNT]!] };
      const macro = { name: "x", steps: [{ do: "toggle read" }] };
      await runMacro(context, { id: runId(randomUUID()), macro, target } as never);
    }
  };
  const both = Promise.all([reads(), reads(), writes()]);
  const until = async (n: number) => {
    while (asked.read < n) await new Promise((resolve) => setTimeout(resolve, 10));
  };
  // What fails ends all of it.
  await Promise.race([both, until(5)]);
  await Promise.race([both, migrateDatabase(fresh.url, MIGRATIONS)]);
  await Promise.race([both, until(asked.read + 5)]);
  isOver = true;
  await both;
  expect([...asked.found]).toEqual([50]);
  expect(asked.written).toBeGreaterThan(0);
  expect(await words()).toEqual(there);
  const entries = await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from ledger where kind = 'run'`;
  expect(entries[0]!.n).toBe(asked.written);
});
