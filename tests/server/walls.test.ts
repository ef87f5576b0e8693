import postgres from "postgres";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { personId } from "@/core/id";
import { migrateDatabase, openWalled, type Database } from "@/server/db";
import { MIGRATIONS } from "./database";
import { closeTwo, database, openTwo, theirs, THEIRS, url } from "./two-people";

/**
 * The second wall: requests come as a role to which the database shows the rows of one person, also where a statement
 * forgets to say whose it wants.
 */

const OWN = personId(1);
const OTHER = personId(THEIRS);
let gate: Database;
let own: Database;
let other: Database;
/** Tables that say whose a row is, and how. */
let tables: readonly { readonly name: string; readonly column: string }[];

beforeAll(async () => {
  await openTwo();
  gate = openWalled(url(), 2);
  own = gate.as(OWN);
  other = gate.as(OTHER);
  const found = await database().sql<{ name: string }[]>`
    select table_name as name from information_schema.columns
    where table_schema = 'public' and column_name = 'person' order by 1`;
  tables = [...found.map(({ name }) => ({ name, column: "person" })), { name: "person", column: "id" }];
});
afterAll(async () => {
  await gate.close();
  await closeTwo();
});

/** How people come in is seen by whoever is not in yet. */
const AT_THE_GATE = ["challenge", "once_link", "passkey", "person", "recovery_code", "session", "sign_in", "token"];
/** Whose rows are seen, by table. */
const seen = async ({ sql }: Database): Promise<Record<string, number[]>> => {
  const all: Record<string, number[]> = {};
  for (const { name, column } of tables) {
    const rows = await sql.unsafe<{ whose: number }[]>(`select distinct ${column} as whose from ${name} order by 1`);
    if (rows.length > 0) all[name] = rows.map(({ whose }) => Number(whose));
  }
  return all;
};

describe("a statement that forgets whose it is", () => {
  test("sees the rows of whoever asks in every table, and those of nobody else", async () => {
    const there = await seen(database());
    for (const [db, person] of [[own, OWN] as const, [other, OTHER] as const]) {
      const rows = await seen(db);
      const expected = Object.entries(there).filter(([, whose]) => whose.includes(person));
      expect(rows).toEqual(Object.fromEntries(expected.map(([name]) => [name, [person]])));
    }
    // So many kinds of things the other has: the test looks at something.
    expect(Object.keys(await seen(other)).length).toBeGreaterThan(35);
  });

  test("of nobody sees how people come in, and the calendar whose address somebody was given", async () => {
    const rows = await seen(gate);
    expect(Object.keys(rows).filter((name) => !AT_THE_GATE.includes(name))).toEqual(["calendar"]);
    const calendars = await gate.sql<{ secret: string | null }[]>`select secret from calendar`;
    expect(calendars.map(({ secret }) => secret === null)).toEqual([false]);
    expect((await gate.sql`update calendar set name = 'x' returning id`).length).toBe(0);
  });

  test("changes and deletes nothing of another's, and puts nothing under their name", async () => {
    const before = await theirs();
    for (const { name, column } of tables) {
      const undo = new Error("undo");
      await own.sql
        .begin(async (tx) => {
          await tx.unsafe(`update ${name} set ${column} = ${column}`);
          await tx.unsafe(`savepoint deleted`);
          // What others refer to stays; the other's is never even looked at.
          await tx.unsafe(`delete from ${name} where ${column} = ${THEIRS}`);
          throw undo;
        })
        .catch((error: unknown) => expect([name, error]).toEqual([name, undo]));
      const [row] = await database().sql.unsafe<{ row: string }[]>(
        `select row_to_json(t)::text as row from ${name} t where ${column} = ${THEIRS} limit 1`,
      );
      if (!row) continue;
      const put = own.sql.unsafe(
        `insert into ${name} overriding system value select * from json_populate_record(null::${name}, $1::text::json)`,
        [row.row],
      );
      await expect(put, name).rejects.toThrow(/row-level security|check option/);
    }
    expect(await theirs()).toEqual(before);
  });

  test("of an upload sees no pieces of another's", async () => {
    const [job] = await database().sql<{ id: number }[]>`select id from job where person = ${OTHER} limit 1`;
    await database().sql`insert into job_chunk (job, position, data) values (${job!.id}, 77, 'x')`;
    const count = async ({ sql }: Database) => (await sql`select from job_chunk where position = 77`).length;
    expect([await count(own), await count(other), await count(gate)]).toEqual([0, 1, 0]);
    const put = own.sql`insert into job_chunk (job, position, data) values (${job!.id}, 78, 'x')`;
    await expect(put).rejects.toThrow("row-level security");
  });
});

describe("every table", () => {
  test("is behind a wall, but one of which whoever asks is nobody yet", async () => {
    const open = await database().sql<{ name: string }[]>`
      select relname as name from pg_class
      where relnamespace = 'public'::regnamespace and relkind in ('r', 'p') and not relrowsecurity order by 1`;
    expect(open.map(({ name }) => name)).toEqual(["message_words", "sign_in_attempt"]);
  });

  test("is no request's to make, to change or to look around the wall of", async () => {
    const tries = [
      "select from public.message_words",
      "select from parts.message_words_0",
      "alter table message disable row level security",
      "create table mine (a int)",
      "drop policy own on message",
    ];
    for (const sql of tries) await expect(own.sql.unsafe(sql), sql).rejects.toMatchObject({ code: "42501" });
    expect((await own.sql<{ who: string }[]>`select current_user as who`)[0]!.who).toBe("tachyne_web");
  });
});

describe("on a few connections", () => {
  const whose = async ({ sql }: { readonly sql: Database["sql"] }) =>
    (await sql<{ whose: number }[]>`select distinct person as whose from message`).map((row) => Number(row.whose));

  test("what many ask at once stays apart: statements, transactions, refused ones, those of the mapper", async () => {
    const asked = Array.from({ length: 300 }, async (_, i) => {
      const [db, person] = i % 2 ? ([own, OWN] as const) : ([other, OTHER] as const);
      switch (i % 5) {
        case 0:
          return db.sql.begin(async (tx) => {
            const first = await tx<{ whose: number }[]>`select distinct person as whose from message`;
            await tx.savepoint((inner) => inner`select 1 / 0`).catch(() => undefined);
            const rows = await tx<{ whose: number }[]>`select distinct person as whose from message_state`;
            expect([...first, ...rows].map((row) => Number(row.whose))).toEqual([person, person]);
          });
        case 1:
          return expect(db.sql`select ${person}::int / 0`).rejects.toThrow("division by zero");
        case 2: {
          const [row] = await db.orm.execute<{ whose: string }>("select distinct person as whose from message");
          return expect(Number(row!.whose)).toBe(person);
        }
        case 3: {
          const held = await db.sql.reserve();
          const rows = await held<{ whose: number }[]>`select distinct person as whose from message`;
          held.release();
          return expect(rows.map((row) => Number(row.whose))).toEqual([person]);
        }
        default:
          return expect(await whose(db)).toEqual([person]);
      }
    });
    await Promise.all(asked);
  });

  test("one that is cut in the middle fails, and the next are whose they are", async () => {
    // A pool of its own: whether others' connections are alive is not for this test to say.
    const frail = openWalled(`${url()}?application_name=frail`, 2);
    const [first, second] = [frail.as(OWN), frail.as(OTHER)];
    for (let round = 0; round < 5; round++) {
      const asked = [first, second, first, second].map(async (db, i) => {
        const rows = await db.sql<{ whose: number }[]>`
          select distinct person as whose from message, pg_sleep(${i % 2 ? 0 : 0.05}::float8)`.catch(() => null);
        return rows?.map((row) => Number(row.whose)) ?? null;
      });
      await database().sql`select pg_terminate_backend(pid) from pg_stat_activity
        where datname = current_database() and application_name = 'frail'`;
      for (const [i, rows] of (await Promise.all(asked)).entries())
        if (rows) expect(rows).toEqual([i % 2 ? THEIRS : 1]);
    }
    await expect.poll(() => whose(first).catch(() => null)).toEqual([OWN]);
    await expect.poll(() => whose(second).catch(() => null)).toEqual([OTHER]);
    await frail.close();
  });

  test("after a cut in the middle of statements, what is asked next is done, in a transaction and outside of one", async () => {
    const pid = "select pg_backend_pid() as pid";
    for (const next of ["begin", "statement"]) {
      const frail = openWalled(`${url()}?application_name=cut`, 3);
      const { sql } = frail.as(OWN);
      const cut = Promise.all([1, 2, 3].map(() => sql`select pg_sleep(60)`.catch((error: Error) => error.message)));
      const sleeping = database()
        .sql`datname = current_database() and application_name = 'cut' and query like '%sleep(60)%'`;
      const begun = async () => (await database().sql`select pid from pg_stat_activity where ${sleeping}`).length;
      await expect.poll(begun).toBe(3);
      await database().sql`select pg_terminate_backend(pid) from pg_stat_activity where ${sleeping}`;
      expect(await cut).toHaveLength(3);
      const asked = [1, 2, 3, 4].map(async () => {
        const rows = next === "begin" ? await sql.begin((tx) => tx.unsafe(pid)) : await sql.unsafe(pid);
        return rows.length;
      });
      expect(await Promise.all(asked)).toEqual([1, 1, 1, 1]);
      await frail.close();
    }
  });

  test("a statement that has to be prepared anew, since a table has changed, is still of whoever asked", async () => {
    const ask = ({ sql }: Database) => sql<{ person: number }[]>`select * from marker order by id limit 1`;
    await Promise.all([ask(own), ask(other), ask(own), ask(other)]);
    await database().sql`alter table marker add column later int`;
    const rows = await Promise.all([own, other, own, other, own, other].map(ask));
    expect(rows.map(([row]) => Number(row!.person))).toEqual([1, THEIRS, 1, THEIRS, 1, THEIRS]);
    await database().sql`alter table marker drop column later`;
  });
});

describe("the index of words", () => {
  test("is used from behind the wall", async () => {
    const plan = await own.sql.begin(async (tx) => {
      await tx`set local enable_seqscan = off`;
      return tx<{ "QUERY PLAN": string }[]>`
        explain select message from message_words where person = ${OWN} and words @@ 'larch'::tsquery`;
    });
    expect(plan.map((row) => row["QUERY PLAN"]).join("\n")).toMatch(/Index Scan on message_words_\d+_words_idx/);
  });
});

describe("who owns the tables", () => {
  test("but may make no roles is told what is to be done, and goes on once it was", async () => {
    const admin = postgres(process.env.TEST_DATABASE_URL!, { max: 1, onnotice: () => {} });
    const name = `plain_${Math.random().toString(36).slice(2)}`;
    await admin.unsafe(`create role ${name} login password 'larch'`);
    await admin.unsafe(`create database ${name} owner ${name}`);
    const plain = new URL(process.env.TEST_DATABASE_URL!);
    Object.assign(plain, { username: name, password: "larch", pathname: `/${name}` });
    await expect(migrateDatabase(plain.href, MIGRATIONS)).rejects.toThrow(`grant tachyne_web to "${name}"`);
    await admin.unsafe(`grant tachyne_web to ${name}`);
    await migrateDatabase(plain.href, MIGRATIONS);
    const walled = openWalled(plain.href, 1);
    expect((await walled.as(OWN).sql`select from message`).length).toBe(0);
    await walled.close();
    await admin.unsafe(`drop database ${name} with (force)`);
    await admin.unsafe(`drop role ${name}`);
    await admin.end();
  });
});
