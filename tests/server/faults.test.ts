import { randomUUID } from "node:crypto";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { spawn, type ChildProcess } from "node:child_process";
import { setTimeout as pause } from "node:timers/promises";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { personId } from "@/core/id";
import { begin } from "@/server/act";
import { migrateDatabase, openDatabase, type Database } from "@/server/db";
import { fillWithMessages, MIGRATIONS } from "./database";

/** Crashes for real: kill -9 of the web server and of PostgreSQL while a run on ten thousand messages is under way. */
const ROOT = new URL("../..", import.meta.url).pathname;
const COUNT = 10_000;
const ROUNDS = 8;

interface Cluster {
  url: string;
  pid: () => number | null;
  stop: () => void;
}
let home: string;
let cluster: Cluster;
let db: Database;
let ids: number[];
let app: ChildProcess;
let port: number;

async function startCluster(): Promise<Cluster> {
  const setup = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    startCluster: (home: string) => Promise<Cluster>;
  };
  return setup.startCluster(home);
}

async function startApp(): Promise<void> {
  const { freePort } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    freePort: () => Promise<number>;
  };
  port = await freePort();
  app = spawn(process.execPath, ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port)], {
    cwd: ROOT,
    env: { ...process.env, DATABASE_URL: cluster.url, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
    stdio: "ignore",
  });
  for (let tries = 0; tries < 200; tries++) {
    if (
      await fetch(`http://127.0.0.1:${port}/api/v1/health`).then(
        (r) => r.ok,
        () => false,
      )
    )
      return;
    await pause(100);
  }
  throw new Error("the app did not start");
}

/** The process and everything below it, at once. */
function killTree(pid: number): void {
  const parents = new Map<number, number>();
  for (const name of readdirSync("/proc").filter((n) => /^\d+$/.test(n)))
    try {
      parents.set(Number(name), Number(/\) \S (\d+)/.exec(readFileSync(`/proc/${name}/stat`, "utf8"))?.[1]));
    } catch {
      // It ended meanwhile.
    }
  const below = (of: number): number[] =>
    [...parents].filter(([, parent]) => parent === of).flatMap(([child]) => [child, ...below(child)]);
  for (const victim of [pid, ...below(pid)])
    try {
      process.kill(victim, "SIGKILL");
    } catch {
      // It ended meanwhile.
    }
}

const send = (id: string, name: string, steps: object[]) =>
  fetch(`http://127.0.0.1:${port}/api/v1/runs`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ id, macro: { name, steps }, target: { ids } }),
  }).then((r) => r.json() as Promise<{ changed: number; entry: { changed: number } }>);

beforeAll(async () => {
  home = mkdtempSync("/var/tmp/tachyne-faults-");
  cluster = await startCluster();
  await migrateDatabase(cluster.url, MIGRATIONS);
  db = openDatabase(cluster.url, 2);
  const { person } = await begin(db, {
    name: "x",
    address: "x@post.example",
    aliases: [],
    zone: "UTC",
    folders: ["A", "B"],
    labels: [["Invoice", "amber"]],
  });
  ids = await fillWithMessages(
    { db, context: { db, person: personId(person), zone: "UTC" }, url: cluster.url, drop: async () => {} },
    COUNT,
  );
  await startApp();
});
afterAll(async () => {
  if (app?.pid) killTree(app.pid);
  await db.close();
  cluster.stop();
  rmSync(home, { recursive: true, force: true });
});

const folderOf = async (path: string) =>
  (await db.sql<{ id: number }[]>`select id from folder where path = ${path}`)[0]!.id;

describe("kill -9 in the middle of a run", () => {
  test("leaves it wholly there or wholly not, and sending it again completes it once", async () => {
    let cut = 0;
    for (let round = 0; round < ROUNDS; round++) {
      const to = round % 2 === 0 ? "A" : "B";
      const id = randomUUID();
      const steps = [
        { do: "move", to },
        { do: "toggle read" },
        { do: "label", toggle: "Invoice" },
        { do: "flag", due: "+3d" },
        { do: "marker", next: true },
      ];
      const [before] = await db.sql<
        { read: number }[]
      >`select count(*) filter (where bits & 1 = 1)::int as read from message_state`;
      const answer = send(id, `Round ${round}`, steps).then(
        (a) => a,
        () => null,
      );
      // Every round cuts at another moment of the run.
      await pause(20 + round * 22);
      if (round % 2 === 0) {
        killTree(app.pid!);
        await answer;
      } else {
        killTree(cluster.pid()!);
        await answer;
        await db.close();
        cluster = await startCluster();
        db = openDatabase(cluster.url, 2);
        killTree(app.pid!);
      }
      const target = await folderOf(to);
      const [found] = await db.sql<{ moved: number; entries: number; read: number }[]>`
        select (select count(*)::int from message_state where folder = ${target}) as moved,
          (select count(*)::int from ledger where run = ${id}) as entries,
          (select count(*) filter (where bits & 1 = 1)::int from message_state) as read`;
      expect([0, COUNT]).toContain(found!.moved);
      expect(found!.entries).toBe(found!.moved === COUNT ? 1 : 0);
      expect(found!.read).toBe(found!.moved === COUNT ? COUNT - before!.read : before!.read);
      if (found!.moved === 0) cut++;

      await startApp();
      expect((await send(id, `Round ${round}`, steps)).entry.changed).toBe(COUNT);
      expect((await send(id, `Round ${round}`, steps)).entry.changed).toBe(COUNT);
      const [after] = await db.sql<{ moved: number; entries: number; read: number; counted: number }[]>`
        select (select count(*)::int from message_state where folder = ${target}) as moved,
          (select count(*)::int from ledger where run = ${id}) as entries,
          (select count(*) filter (where bits & 1 = 1)::int from message_state) as read,
          (select total from folder_count where folder = ${target}) as counted`;
      expect(after).toEqual({ moved: COUNT, entries: 1, read: COUNT - before!.read, counted: COUNT });
    }
    // If no round was cut before its end, the kills came too late to prove anything.
    expect(cut).toBeGreaterThan(0);
  }, 240_000);
});
