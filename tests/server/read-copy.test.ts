import { afterAll, beforeAll, expect, test } from "vitest";
import { openDatabase, readCopy, type Database } from "@/server/db";
import { emptyDatabase, type Fresh } from "./database";

let fresh: Fresh;
let one: Database;
beforeAll(async () => {
  fresh = await emptyDatabase("");
  // With one connection, whatever is left wrong with it is met by who comes next.
  one = openDatabase(fresh.url, 1);
});
afterAll(async () => {
  await one.close();
  await fresh.drop();
});

const ROWS = 3000;
const QUERY = `select n::int, n::bigint * 10000000000, -n::smallint, nullif(n % 3, 0)::int, repeat('é', n % 700),
  array[n, -n], '{}'::int[], timestamptz '2026-11-26 05:58:01.234Z' + n * interval '1 day', null::timestamptz
  from generate_series(1, ${ROWS}) n order by n`;
const read = async () => {
  const rows: unknown[][] = [];
  await readCopy(one.sql, QUERY, 9, (row) => {
    const text = row.bytes.toString("utf8", row.starts[4], row.ends[4]);
    const whole = [row.whole(0), row.whole(1), row.whole(2), row.isNull(3) ? null : row.whole(3)];
    rows.push([...whole, text, row.wholes(5), row.wholes(6), row.time(7), row.time(8)]);
  });
  return rows;
};

test("every field of every row is what it is, again and again on one connection", async () => {
  const first = Date.parse("2026-11-26T05:58:01.234Z");
  const wanted = Array.from({ length: ROWS }, (_, i) => {
    const n = i + 1;
    const part = n % 3 === 0 ? null : n % 3;
    return [n, n * 1e10, -n, part, "é".repeat(n % 700), [n, -n], [], first + n * 86_400_000, NaN];
  });
  for (let times = 0; times < 3; times++) expect(await read()).toEqual(wanted);
});

test("what is asked meanwhile, of more than there are connections, is answered", async () => {
  for (const connections of [1, 3]) {
    const few = openDatabase(fresh.url, connections);
    const answers: Promise<unknown>[] = [];
    const ask = () => answers.push(few.sql`select 7 as n`.then(([row]) => row!.n as number));
    for (let i = 0; i < 5; i++) ask();
    const copies = [0, 1].map(() => readCopy(few.sql, QUERY, 9, (row) => row.whole(0) % 100 === 0 && ask()));
    for (let i = 0; i < 20; i++) ask();
    await Promise.all(copies);
    expect(await Promise.all(answers)).toEqual(Array.from({ length: 25 + (2 * ROWS) / 100 }, () => 7));
    await few.close();
  }
});

test("a reader that fails, and a query that does, are told, and the next one finds its connection", async () => {
  let taken = 0;
  const failing = readCopy(one.sql, QUERY, 9, () => {
    if (++taken === 5) throw new RangeError("no such row");
  });
  await expect(failing).rejects.toThrow("no such row");
  expect(taken).toBe(5);
  await expect(readCopy(one.sql, "select 1 / (n - 2000) from generate_series(1, 3000) n", 1, () => {})).rejects.toThrow(
    "division by zero",
  );
  expect(await read()).toHaveLength(ROWS);
  // Here the error comes in the same piece as the beginning, before anybody can have listened.
  for (let times = 0; times < 20; times++)
    await expect(readCopy(one.sql, "select 1 / (n - 1) from generate_series(1, 3) n", 1, () => {})).rejects.toThrow(
      "division by zero",
    );
  expect(await read()).toHaveLength(ROWS);
});
