import { randomUUID } from "node:crypto";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { setTimeout as pause } from "node:timers/promises";
import postgres from "postgres";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { personId } from "@/core/id";
import { begin } from "@/server/act";
import { migrateDatabase, openDatabase, type Database } from "@/server/db";
import { fillWithMessages, MIGRATIONS } from "./database";
import { startWeb, type WebApp } from "./web";

/** Crashes for real: kill -9 of the web server and of PostgreSQL while a run on ten thousand messages is under way. */
const COUNT = 10_000;

interface Cluster {
  url: string;
  pid: () => number | null;
  stop: () => void;
}
let home: string;
let cluster: Cluster;
let db: Database;
let ids: number[];
let app: WebApp;

async function startCluster(): Promise<Cluster> {
  const setup = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    startCluster: (home: string) => Promise<Cluster>;
  };
  return setup.startCluster(home);
}

async function startApp(): Promise<void> {
  app = await startWeb(cluster.url);
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

const send = (id: string, name: string, steps: object[], to = app) =>
  fetch(`${to.base}/runs`, {
    method: "POST",
    headers: { ...to.headers, "content-type": "application/json" },
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
  if (app?.process.pid) killTree(app.process.pid);
  await db.close();
  cluster.stop();
  rmSync(home, { recursive: true, force: true });
});

const folderOf = async (path: string) =>
  (await db.sql<{ id: number }[]>`select id from folder where path = ${path}`)[0]!.id;

/** What a run is doing when it is cut: each is one statement of its transaction, which a lock of the test's holds up. */
const CUTS = [
  { at: "before anything is written", lock: "message_state", waits: "%update message_state%" },
  { at: "after the messages, before the ledger", lock: "ledger", waits: "%insert into ledger%" },
] as const;

/** Runs something while the run stands at the cut, for certain. */
async function whileItStands({ lock, waits }: (typeof CUTS)[number], work: () => void): Promise<void> {
  const holder = postgres(cluster.url, { max: 1, onnotice: () => {} });
  const watcher = postgres(cluster.url, { max: 1, onnotice: () => {} });
  try {
    await holder
      .begin(async (tx) => {
        // Who reads goes on; who writes waits.
        await tx.unsafe(`lock table ${lock} in share mode`);
        held();
        for (;;) {
          const [row] = await watcher`
            select 1 from pg_stat_activity where wait_event_type = 'Lock' and query like ${waits}`;
          if (row) break;
          await pause(5);
        }
        work();
      })
      // The database may be what was killed.
      .catch(() => undefined);
  } finally {
    await Promise.allSettled([holder.end({ timeout: 1 }), watcher.end({ timeout: 1 })]);
  }
}

let held: () => void = () => {};
const untilHeld = () => new Promise<void>((resolve) => (held = resolve));

const counts = async (id: string, target: number) => {
  const [found] = await db.sql<{ moved: number; entries: number; read: number; counted: number }[]>`
    select (select count(*)::int from message_state where folder = ${target}) as moved,
      (select count(*)::int from ledger where run = ${id}) as entries,
      (select count(*) filter (where bits & 1 = 1)::int from message_state) as read,
      coalesce((select total from folder_count where folder = ${target}), 0) as counted`;
  return found!;
};

const stepsTo = (to: string) => [
  { do: "move", to },
  { do: "toggle read" },
  { do: "label", toggle: "Invoice" },
  { do: "flag", due: "+3d" },
  { do: "marker", next: true },
];

describe("kill -9 in the middle of a run", () => {
  test.each(CUTS.flatMap((cut) => (["the web server", "PostgreSQL"] as const).map((victim) => ({ victim, cut }))))(
    "of $victim $cut.at leaves nothing of it, and sending it again does it once",
    async ({ victim, cut }) => {
      // Where they are not.
      const [a] = await db.sql<{ n: number }[]>`
        select count(*)::int as n from message_state s join folder f on f.id = s.folder where f.path = 'A'`;
      const to = a!.n === COUNT ? "B" : "A";
      const target = await folderOf(to);
      const id = randomUUID();
      const before = await counts(id, target);
      const holding = untilHeld();
      const cutting = whileItStands(cut, () =>
        victim === "PostgreSQL" ? killTree(cluster.pid()!) : killTree(app.process.pid!),
      );
      await holding;
      const answer = send(id, "Cut", stepsTo(to)).then(
        () => "answered",
        () => "cut",
      );
      await cutting;
      if (victim === "PostgreSQL") {
        await answer;
        await db.close();
        cluster = await startCluster();
        db = openDatabase(cluster.url, 2);
        killTree(app.process.pid!);
      } else expect(await answer).toBe("cut");
      expect(await counts(id, target)).toEqual({ ...before, moved: 0, entries: 0 });

      await startApp();
      expect((await send(id, "Cut", stepsTo(to))).entry.changed).toBe(COUNT);
      expect((await send(id, "Cut", stepsTo(to))).entry.changed).toBe(COUNT);
      expect(await counts(id, target)).toEqual({
        moved: COUNT,
        entries: 1,
        read: COUNT - before.read,
        counted: COUNT,
      });
    },
    240_000,
  );
});

test("the same run sent to two web processes at once is done once, with one entry", async () => {
  const first = app;
  await startApp();
  const second = app;
  try {
    const [one] = await db.sql<{ read: number }[]>`
      select count(*) filter (where bits & 1 = 1)::int as read from message_state`;
    const id = randomUUID();
    const steps = [{ do: "toggle read" }];
    const answers = await Promise.all([first, second, first, second].map((to) => send(id, "Both", steps, to)));
    expect(new Set(answers.map((answer) => JSON.stringify(answer.entry))).size).toBe(1);
    expect(answers[0]!.entry.changed).toBe(COUNT);
    const [now] = await db.sql<{ read: number; entries: number }[]>`
      select (select count(*) filter (where bits & 1 = 1)::int from message_state) as read,
        (select count(*)::int from ledger where run = ${id}) as entries`;
    expect(now).toEqual({ read: COUNT - one!.read, entries: 1 });
  } finally {
    killTree(second.process.pid!);
    app = first;
  }
});
