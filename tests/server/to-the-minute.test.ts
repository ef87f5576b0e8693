import { randomUUID } from "node:crypto";
import { execFileSync } from "node:child_process";
import { appendFileSync, chmodSync, chownSync, copyFileSync, mkdirSync, mkdtempSync, rmSync, statSync } from "node:fs";
import { dirname, join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";
import { begin, runMacro, type Context } from "@/server/act";
import { migrateDatabase, openDatabase, type Database } from "@/server/db";
import { contentOf } from "./content";
import { fillWithMessages, MIGRATIONS } from "./database";

/** A server that archives its log is brought back to the moment before a mistake, as the page on backups says. */

interface Cluster {
  readonly folder: string;
  readonly url: string;
  readonly stop: () => void;
}
const { ensureServer, startCluster } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
  ensureServer: () => Promise<string>;
  startCluster: (home: string, options?: { settings?: readonly string[] }) => Promise<Cluster>;
};

let home: string;
let archive: string;
const running: Cluster[] = [];
const open: Database[] = [];
beforeAll(() => {
  home = mkdtempSync("/var/tmp/tachyne-past-");
  chmodSync(home, 0o755);
  archive = join(home, "archive");
  mkdirSync(archive);
  chmodSync(archive, 0o777);
});
afterAll(async () => {
  await Promise.all(open.map((db) => db.close()));
  for (const cluster of running) cluster.stop();
  rmSync(home, { recursive: true, force: true });
});

async function started(name: string, settings: readonly string[] = []): Promise<Cluster & { readonly db: Database }> {
  const cluster = await startCluster(join(home, name), { settings });
  running.push(cluster);
  const db = openDatabase(cluster.url, 3);
  open.push(db);
  return { ...cluster, db };
}

test("what was deleted for good by mistake is there again, and all that came before it, and nothing after", async () => {
  const first = await started("first", [
    "wal_level = replica",
    "archive_mode = on",
    `archive_command = 'test ! -f ${archive}/%f && cp %p ${archive}/%f'`,
  ]);
  const { db } = first;
  await migrateDatabase(first.url, MIGRATIONS);
  const { person } = await begin(db, {
    name: "Hut office",
    address: "bookings@larchhuts.example",
    aliases: [],
    zone: "Europe/Zurich",
    folders: ["Bookings"],
    labels: [],
  });
  const context: Context = { db, person, zone: "Europe/Zurich" };
  const drop = () => Promise.resolve();
  const ids = await fillWithMessages({ db, context, url: first.url, drop }, 40);
  const owner = statSync(first.folder);
  const asOwner = { uid: owner.uid, gid: owner.gid, cwd: "/", stdio: "pipe" } as const;
  const base = join(home, "base");
  mkdirSync(base, { mode: 0o700 });
  chownSync(base, owner.uid, owner.gid);
  execFileSync(
    join(await ensureServer(), "pg_basebackup"),
    ["-d", first.url, "-D", base, "-X", "stream", "--checkpoint=fast"],
    asOwner,
  );

  const decide = (of: readonly number[], name: string, step: "archive" | "delete for good") =>
    runMacro(context, { id: randomUUID(), macro: { name, steps: [{ do: step }] }, target: { ids: [...of] } });
  await decide(ids.slice(0, 30), "Decided", "archive");
  const there = await contentOf(db);
  const [moment] = await db.sql<{ at: string }[]>`select clock_timestamp()::text as at`;
  await decide(ids, "By mistake", "delete for good");
  expect(await db.sql`select from message`).toHaveLength(0);

  // The file that is ended by it: asked for afterwards, the server may have begun to write the next one.
  const [last] = await db.sql<{ name: string }[]>`select pg_walfile_name(pg_switch_wal()) as name`;
  await expect
    .poll(
      async () =>
        (await db.sql<{ is: boolean }[]>`select last_archived_wal >= ${last!.name} as is from pg_stat_archiver`)[0]!.is,
      { timeout: 60_000 },
    )
    .toBe(true);

  // The base is put in place, told of the archive and of the moment, and started.
  const second = join(home, "second");
  const place = first.folder.replace(`${dirname(first.folder)}/`, `${second}/`);
  mkdirSync(second, { mode: 0o755 });
  copyFileSync(join(home, "first", "password"), join(second, "password"));
  execFileSync("mv", [base, place]);
  appendFileSync(
    join(place, "postgresql.conf"),
    `\narchive_mode = off\nrestore_command = 'cp ${archive}/%f %p'\nrecovery_target_time = '${moment!.at}'\nrecovery_target_action = 'promote'\n`,
  );
  execFileSync("touch", [join(place, "recovery.signal")], asOwner);
  const restored = await started("second");
  await expect
    .poll(async () => (await restored.db.sql<{ is: boolean }[]>`select pg_is_in_recovery() as is`)[0]!.is, {
      timeout: 60_000,
    })
    .toBe(false);
  const here = await contentOf(restored.db);
  const counts = Object.keys(there).filter((name) => name.startsWith("sequence "));
  // The log is some numbers ahead of what was given out: none is ever given twice.
  for (const name of counts) expect(Number(here[name]), name).toBeGreaterThanOrEqual(Number(there[name]));
  const rowsOf = (all: Record<string, string>) => Object.entries(all).filter(([name]) => !counts.includes(name));
  expect(rowsOf(here)).toEqual(rowsOf(there));
  expect(await restored.db.sql`select from message`).toHaveLength(40);
}, 180_000);
