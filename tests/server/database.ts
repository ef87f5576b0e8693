import { createHash, randomBytes } from "node:crypto";
import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import postgres from "postgres";
import { STATE_BIT } from "@/core/columns";
import { personId } from "@/core/id";
import { begin, type Context } from "@/server/act";
import { migrateDatabase, openDatabase, openWalled, type Database } from "@/server/db";

export const MIGRATIONS = new URL("../../src/server/db/migrations", import.meta.url).pathname;
export const WORKER = new URL("../../dist/parse-worker.mjs", import.meta.url).pathname;

const server = (): string => {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set: run the tests with npm test");
  return url;
};

export interface Fresh {
  /** As jobs and tools have it: it sees all rows. */
  readonly db: Database;
  /** As a request has it, behind the walls. */
  readonly context: Context;
  readonly url: string;
  readonly drop: () => Promise<void>;
}

const onServer = (name: string) => server().replace(/\/[^/]*$/, `/${name}`);

/** Any number that nobody else locks. */
const MAKING = 5_710_331;

/** A database of this version to be copied: migrating takes longer than most tests, and is done once for all files. */
async function migrated(): Promise<string> {
  const hash = createHash("sha256");
  for (const file of readdirSync(MIGRATIONS).filter((one) => one.endsWith(".sql")))
    hash.update(readFileSync(join(MIGRATIONS, file)));
  const name = `migrated_${hash.digest("hex").slice(0, 16)}`;
  const admin = postgres(server(), { max: 1, onnotice: () => {} });
  await admin`select pg_advisory_lock(${MAKING})`;
  if ((await admin`select 1 from pg_database where datname = ${name}`).length === 0) {
    await admin.unsafe(`drop database if exists ${name}_begun`);
    await admin.unsafe(`create database ${name}_begun`);
    await migrateDatabase(onServer(`${name}_begun`), MIGRATIONS);
    await admin.unsafe(`alter database ${name}_begun rename to ${name}`);
  }
  await admin.end();
  return name;
}

/**
 * A database of its own with nothing in it but what the SQL makes. The first person of it is who asks.
 * @param template what it is a copy of
 */
export async function emptyDatabase(sql: string, template = "template1"): Promise<Fresh> {
  const name = `t_${randomBytes(6).toString("hex")}`;
  const admin = postgres(server(), { max: 1, onnotice: () => {} });
  await admin.unsafe(`create database ${name} template ${template}`);
  const url = onServer(name);
  const filling = postgres(url, { max: 1, onnotice: () => {} });
  await filling.unsafe(sql);
  await filling.end();
  const db = openDatabase(url, 6);
  const drop = async () => {
    await db.close();
    await admin.unsafe(`drop database ${name} with (force)`);
    await admin.end();
  };
  return { db, context: { db, person: personId(1), zone: "Europe/Zurich" }, url, drop };
}

/** A database of its own, with the starter person, three folders and two labels. */
export async function freshDatabase(): Promise<Fresh> {
  const empty = await emptyDatabase("", await migrated());
  const { person } = await begin(empty.db, {
    name: "Hut office",
    address: "bookings@larchhuts.example",
    aliases: [],
    zone: "Europe/Zurich",
    folders: ["Bookings", "Bookings/Groups", "Weather"],
    labels: [
      ["Winter season", "slate"],
      ["Invoice", "amber"],
    ],
  });
  const walled = openWalled(empty.url, 6);
  const drop = async () => {
    await walled.close();
    await empty.drop();
  };
  return { ...empty, context: { db: walled.as(person), person, zone: "Europe/Zurich" }, drop };
}

/** Messages without sources, made in one statement: for tests of states, runs and searches. */
export async function fillWithMessages({ db, context }: Fresh, count: number, folder = 1): Promise<number[]> {
  const rows = await db.sql<{ id: number }[]>`
    with c as (insert into content (person, hash, raw)
      select ${context.person}, sha256((gen_random_uuid()::text || n)::bytea), ('Subject: number ' || n)::bytea from generate_series(1, ${count}) n returning id),
    m as (insert into message (person, content, thread, date, size, traits, from_name, from_address, recipients, cc, subject,
        preview, list, attachments, flaws, from_key, to_key, subject_key, list_key)
      select ${context.person}, c.id, c.id, timestamptz '2026-11-01' + c.id * interval '1 minute', 100 + c.id % 1000, 0,
        'Sender ' || c.id % 7, 's' || c.id % 7 || '@post.example', '[]', '[]', 'number ' || c.id, '', '', '{}', '{}',
        ' sender ' || c.id % 7 || ' s' || c.id % 7 || ' post example ', ' ', ' number ' || c.id || ' ', ' ' from c returning id, content),
    s as (insert into sender (person, domain, address)
      select ${context.person}, 'post.example', 's' || n || '@post.example' from generate_series(0, 6) n
      on conflict (person, address) do update set address = excluded.address returning id, address)
    insert into message_state (person, message, folder, bits, sender)
      select ${context.person}, m.id, ${folder}, case when m.id % 3 = 0 then ${STATE_BIT.read} else 0 end, s.id
      from m join s on s.address = 's' || m.content % 7 || '@post.example' returning message as id`;
  return rows.map((row) => row.id).sort((a, b) => a - b);
}

/** The same of these days, whenever it is run: what older mail teaches counts for less. */
export async function fillWithRecent(fresh: Fresh, count: number, folder?: number): Promise<number[]> {
  const ids = await fillWithMessages(fresh, count, folder);
  await fresh.db.sql`update message set date = date + (now() - interval '5 days' - timestamptz '2026-11-01')`;
  return ids;
}
