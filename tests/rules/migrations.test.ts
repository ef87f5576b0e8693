import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

/**
 * A database is migrated while older processes run on it, and they go on until each was started anew. So a migration
 * only adds. What nothing looks at any more is taken away by a later version, once none runs that does.
 */
const FOLDER = new URL("../../src/server/db/migrations", import.meta.url).pathname;
/** The rule is as old as the second wall: what came before, nothing ran under. */
const FROM = 34;

/** What older processes would miss, or could not write beside. */
const TAKES_AWAY = /\b(DROP (TABLE|COLUMN|VIEW|SCHEMA|FUNCTION)|RENAME|SET DATA TYPE|SET NOT NULL|DISABLE)\b/gi;
const ADDS_WHAT_IS_NOT_WRITTEN = /ADD COLUMN (?!.*\bDEFAULT\b)[^;]*\bNOT NULL\b/gi;

/** Where a migration may all the same, and why nothing is missed. */
const ALL_THE_SAME: Readonly<Record<string, string>> = {
  "0034_words_by_person.sql": "a table of the same name, columns and keys stands in its place, in the same transaction",
};

test("migrations only add to what older processes look at", () => {
  const wrong: string[] = [];
  const files = readdirSync(FOLDER).filter((name) => name.endsWith(".sql") && Number(name.slice(0, 4)) >= FROM);
  for (const name of files.filter((file) => ALL_THE_SAME[file] === undefined)) {
    const sql = readFileSync(join(FOLDER, name), "utf8").replace(/--(?!>).*$/gm, "");
    for (const rule of [TAKES_AWAY, ADDS_WHAT_IS_NOT_WRITTEN])
      for (const [found] of sql.matchAll(rule)) wrong.push(`${name}: ${found}`);
  }
  expect(wrong).toEqual([]);
  expect(files).toEqual(expect.arrayContaining(Object.keys(ALL_THE_SAME)));
});

test.each([
  ['ALTER TABLE "message" DROP COLUMN "size"', true],
  ['ALTER TABLE "message" RENAME COLUMN "size" TO "bytes"', true],
  ['ALTER TABLE "message" ADD COLUMN "kind" text NOT NULL', true],
  ['ALTER TABLE "message" ADD COLUMN "kind" text DEFAULT \'\' NOT NULL', false],
  ['CREATE INDEX "message_kind" ON "message" ("person", "kind")', false],
])("%s", (sql, isRefused) => {
  expect(new RegExp(TAKES_AWAY).test(sql) || new RegExp(ADDS_WHAT_IS_NOT_WRITTEN).test(sql)).toBe(isRefused);
});
