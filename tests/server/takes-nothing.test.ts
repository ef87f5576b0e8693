import { randomUUID } from "node:crypto";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test, vi } from "vitest";
import { runId } from "@/core/id";
import { nextUndo } from "@/core/ledger";
import { readLedger, runMacro, takeBack } from "@/server/act";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { endWeb, startWeb, type WebApp } from "./web";

/** A disk that is full, a database that is set to be read only, and a clock that jumps: nothing is lost, or done twice. */

let fresh: Fresh;
let ids: readonly number[];
let app: WebApp;
beforeAll(async () => {
  fresh = await freshDatabase();
  ids = await fillWithMessages(fresh, 9);
  app = await startWeb(`${fresh.url}?application_name=served`);
});
afterAll(async () => {
  await endWeb(app);
  await fresh.drop();
});

const headers = () => ({ ...(app.headers as Record<string, string>), "content-type": "application/json" });
const post = (path: string, body: unknown) =>
  fetch(app.base + path, { method: "POST", headers: headers(), body: JSON.stringify(body) });
const archive = (id: string) =>
  post("/runs", { id, macro: { name: "Archive", steps: [{ do: "archive" }] }, target: { ids: [ids[0]] } });
const entries = async () =>
  (await fresh.db.sql<{ n: number }[]>`select count(*)::int as n from ledger where kind = 'run'`)[0]!.n;
const folderOf = async (id: number) =>
  (await fresh.db.sql<{ folder: number }[]>`select folder from message_state where message = ${id}`)[0]!.folder;

/** The web process connects anew, and has what was set for the database meanwhile; the test stays connected. */
const reconnect = () => fresh.db.sql`
  select pg_terminate_backend(pid) from pg_stat_activity
  where datname = current_database() and application_name = 'served'`;
const setReadOnly = async (is: boolean) => {
  const { sql } = fresh.db;
  const [row] = await sql<{ name: string }[]>`select quote_ident(current_database()) as name`;
  await sql.begin(async (tx) => {
    await tx`set local transaction_read_only = off`;
    await tx.unsafe(`alter database ${row!.name} set default_transaction_read_only = ${is ? "on" : "off"}`);
  });
  await reconnect();
};

/** What PostgreSQL says where a file cannot grow. */
const setFull = async (is: boolean) => {
  const { sql } = fresh.db;
  if (!is) return void (await sql.unsafe("drop trigger no_room on ledger; drop function no_room()"));
  await sql.unsafe(`create function no_room() returns trigger language plpgsql as
    $$ begin raise 'could not extend file "base/1/2": No space left on device' using errcode = '53100'; end $$`);
  await sql.unsafe("create trigger no_room before insert on ledger for each row execute function no_room()");
};

describe.each([
  ["is set to be read only", setReadOnly, "read only"],
  ["has no room on its disk", setFull, "disk is full"],
] as const)("a database that %s", (_, set, said) => {
  beforeEach(() => set(true));
  afterEach(() => set(false));

  test("says so, has changed nothing, and does what was asked once it can, once", async () => {
    const [before, folder] = [await entries(), await folderOf(ids[0]!)];
    const id = randomUUID();
    for (let i = 0; i < 3; i++) {
      await expect
        .poll(async () => {
          const got = await archive(id);
          return got.status === 503 ? ((await got.json()) as { type: string; detail: string }) : got.status;
        })
        .toMatchObject({ type: "urn:tachyne:not-stored", detail: expect.stringContaining(said) as string });
    }
    expect(await entries()).toBe(before);
    expect(await folderOf(ids[0]!)).toBe(folder);
    await set(false);
    // What was sent again and again meanwhile is sent once more.
    await expect.poll(async () => (await archive(id)).status).toBe(200);
    expect((await archive(id)).status).toBe(200);
    expect(await entries()).toBe(before + 1);
    expect(await folderOf(ids[0]!)).not.toBe(folder);
    await takeBack(fresh.context, "undo", runId(id));
    await set(true);
  });

  test("is read as before, also by a session that is to be noted as used", async () => {
    await fresh.db.sql.begin(async (tx) => {
      await tx`set local transaction_read_only = off`;
      await tx`update session set seen_at = now() - interval '1 day'`;
    });
    const read = () => fetch(`${app.base}/messages?limit=1`, { headers: headers() });
    await expect.poll(async () => (await read()).status).toBe(200);
    expect((await fetch(`${app.base}/health`)).status).toBe(200);
    expect((await fetch(`${app.base}/ready`)).status).toBe(200);
  });
});

describe("a clock that jumps", () => {
  afterEach(() => void vi.useRealTimers());
  const at = (time: string) => vi.useFakeTimers({ toFake: ["Date"], now: new Date(time) });
  const next = async () => {
    const entries = await readLedger(fresh.context, { limit: 20 });
    return nextUndo(entries.map((one) => ({ ...one, id: runId(one.id), of: one.of === null ? null : runId(one.of) })))
      .target!;
  };
  const run = async (of: number, name: string) => {
    const id = randomUUID();
    const steps = [{ do: "move" as const, to: name }];
    await runMacro(fresh.context, { id, macro: { name, steps }, target: { ids: [ids[of]!] } });
    return id;
  };

  test("backwards: what was done last is taken back first, by its place and not by its time", async () => {
    at("2026-11-29T10:00:00Z");
    const first = await run(3, "Bookings");
    at("2026-11-29T07:00:00Z");
    const second = await run(3, "Weather");
    const [weather] = await fresh.db.sql<{ id: number }[]>`select id from folder where path = 'Weather'`;
    expect(await folderOf(ids[3]!)).toBe(weather!.id);
    expect((await next()).id).toBe(second);
    await takeBack(fresh.context, "undo", runId(second));
    expect((await next()).id).toBe(first);
    await takeBack(fresh.context, "undo", runId(first));
    expect(await folderOf(ids[3]!)).toBe(1);
  });

  test("forwards by years and back: nothing is forgotten for it, and windows are told in order", async () => {
    at("2031-01-01T00:00:00Z");
    await run(4, "Bookings");
    at("2026-11-29T08:00:00Z");
    await run(5, "Bookings");
    const rows = await fresh.db.sql<{ seq: number }[]>`select seq from ledger order by seq`;
    expect(rows.map(({ seq }) => Number(seq))).toEqual([...new Set(rows.map(({ seq }) => Number(seq)))]);
    expect(await folderOf(ids[4]!)).toBe(await folderOf(ids[5]!));
  });
});
