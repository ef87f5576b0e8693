import { readdirSync, readFileSync } from "node:fs";
import { is } from "drizzle-orm";
import { getTableConfig, PgTable, type IndexedColumn } from "drizzle-orm/pg-core";
import { describe, expect, test } from "vitest";
import * as schema from "@/server/db/schema";

/**
 * What a database that lies on several machines needs: all that is somebody's lies with them. The person leads every
 * key, no statement puts two people's rows together, and numbers are a person's own.
 */

const exported: readonly unknown[] = Object.values(schema);
const tables = exported
  .filter((value): value is PgTable => is(value, PgTable))
  .map((table) => {
    const { name, columns, primaryKeys, indexes, uniqueConstraints } = getTableConfig(table);
    const keys = primaryKeys[0]?.columns ?? columns.filter(({ primary }) => primary);
    const first = ({ config }: (typeof indexes)[number]) => (config.columns[0] as IndexedColumn | undefined)?.name;
    return {
      name,
      key: keys.map((column) => column.name),
      unique: [
        ...indexes.filter(({ config }) => config.unique).map((one) => [one.config.name ?? "", first(one)] as const),
        ...uniqueConstraints.map((one) => [one.name ?? "", one.columns[0]?.name] as const),
        ...columns.filter(({ isUnique }) => isUnique).map((one) => [`${name}.${one.name}`, one.name] as const),
      ],
      counted: columns
        .filter((column) => /serial/i.test(column.columnType) || column.generatedIdentity !== undefined)
        .map((column) => column.name),
    };
  });

/** Each is looked up before it is known whose it is, or by whoever works for all. They would lie on one machine. */
const FOR_ALL: Readonly<Record<string, string>> = {
  person: "says who there is, and where they lie",
  job_chunk: "pieces of an upload, read by the process that has taken its job",
  sign_in_attempt: "of whoever is nobody yet",
  challenge: "the same",
};
const UNIQUE_FOR_ALL: Readonly<Record<string, string>> = {
  job_id: "a job process knows its job by it",
  calendar_secret: "whoever has a calendar's address says nothing of whose it is",
  sign_in_address: "an address leads to the person",
};

describe("the person leads", () => {
  test("every key of a table", () => {
    const others = tables.filter(({ key }) => key[0] !== "person").map(({ name }) => name);
    expect(others.sort()).toEqual(Object.keys(FOR_ALL).sort());
    expect(tables.length).toBeGreaterThan(60);
  });

  test("every index that holds something to be one", () => {
    const others = tables
      .filter(({ name }) => !(name in FOR_ALL))
      .flatMap(({ unique }) => unique.filter(([, first]) => first !== "person").map(([name]) => name));
    expect(others.sort()).toEqual(Object.keys(UNIQUE_FOR_ALL).sort());
  });

  test("every number that is counted on: two machines may give the same one to two people", () => {
    const others = tables
      .filter(({ name }) => !(name in FOR_ALL) && name !== "job")
      .flatMap(({ name, key, counted }) => counted.filter((column) => !key.includes(column)).map((one) => [name, one]));
    expect(others).toEqual([]);
  });
});

const NAMES = new Set(tables.map(({ name }) => name));
const NEXT = String.raw`\b(?:join|where|group|order|returning|limit|set|union|left|cross|for update)\b|\x60|$`;
const JOIN = new RegExp(
  String.raw`\bjoin\s+(\w+)(?:\s+(?:as\s+)?(?!on\b|using\b)\w+)?\s+(?:on|using)\b(.*?)(?=${NEXT})`,
  "gs",
);
/** Joins of tables, and whether they say that both rows are of the same person. */
const joinsIn = (sql: string) =>
  [...sql.matchAll(JOIN)]
    .filter(([, table]) => NAMES.has(table!))
    .map(([text, , condition]) => ({ text, isWithin: /\bperson\b/.test(condition!) }));

describe("no join puts two people together", () => {
  test("in any statement there is", () => {
    const folder = new URL("../../src/server", import.meta.url).pathname;
    const files = readdirSync(folder, { recursive: true, encoding: "utf8" }).filter((file) => file.endsWith(".ts"));
    const joins = files.flatMap((file) => joinsIn(readFileSync(`${folder}/${file}`, "utf8")));
    expect(joins.filter(({ isWithin }) => !isWithin).map(({ text }) => text)).toEqual([]);
    expect(joins.length).toBeGreaterThan(100);
  });

  test("and the rule can fail", () => {
    const within =
      "select 1 from message m join message_state s on s.person = m.person and s.message = m.id where m.id = 1";
    const across = "select person from message m join message_state s on s.message = m.id where m.person = 1";
    expect([within, across].map((sql) => joinsIn(sql).map(({ isWithin }) => isWithin))).toEqual([[true], [false]]);
  });
});
