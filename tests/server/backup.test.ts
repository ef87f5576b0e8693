import { execFileSync } from "node:child_process";
import { mkdtempSync, readdirSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { openWalled, type Database } from "@/server/db";
import { personId } from "@/core/id";
import { contentOf } from "./content";
import { emptyDatabase, type Fresh } from "./database";
import { ask, closeTwo, database, openTwo, THEIRS, url } from "./two-people";
import { endWeb, startWeb } from "./web";

/** A backup by PostgreSQL's own tools, restored into an empty database, is what there was, and the app goes on with it. */

const VERSIONS = "/usr/lib/postgresql";
const tool = (name: string, ...args: string[]) =>
  execFileSync(join(VERSIONS, readdirSync(VERSIONS).sort().at(-1)!, "bin", name), args, { stdio: "pipe" });

let folder: string;
let restored: Fresh;
beforeAll(async () => {
  await openTwo();
  folder = mkdtempSync(join(tmpdir(), "tachyne-backup-"));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await restored.drop();
  await closeTwo();
});

test("a backup that is restored is what there was, to the last row and number", async () => {
  const file = join(folder, "backup.dump");
  const before = await contentOf(database());
  tool("pg_dump", "--format=custom", `--file=${file}`, url());
  restored = await emptyDatabase("");
  tool("pg_restore", "--no-owner", "--exit-on-error", `--dbname=${restored.url}`, file);
  expect(await contentOf(restored.db)).toEqual(before);
  // More than a few tables with something in them.
  expect(Object.values(before).filter((one) => !/^0( |$)/.test(one)).length).toBeGreaterThan(35);
});

test("its walls stand, and its indexes and constraints are those there were", async () => {
  const walled = openWalled(restored.url, 2);
  const whose = await walled.as(personId(THEIRS)).sql<{ person: number }[]>`select distinct person from message`;
  expect(whose.map(({ person }) => Number(person))).toEqual([THEIRS]);
  expect(await walled.sql`select from message`).toHaveLength(0);
  await walled.close();
  const shapeOf = async ({ sql }: Database) => [
    await sql`select indexdef from pg_indexes where schemaname = 'public' order by 1`,
    await sql`select conrelid::regclass::text as of, pg_get_constraintdef(oid) as is from pg_constraint order by 1, 2`,
    await sql`select tablename, policyname, qual from pg_policies order by 1, 2`,
    await sql`select tgrelid::regclass::text as of, tgname from pg_trigger where not tgisinternal order by 1, 2`,
  ];
  expect(await shapeOf(restored.db)).toEqual(await shapeOf(database()));
});

test("the app answers from it as from the other", async () => {
  const there = await ask("get", "/messages?limit=100");
  const app = await startWeb(restored.url);
  const direct = await fetch(`${app.base}/messages?limit=100`, { headers: app.headers as Record<string, string> });
  expect(direct.status).toBe(200);
  expect(await direct.text()).toBe(there.text);
  await endWeb(app);
});
