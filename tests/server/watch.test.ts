import { spawn } from "node:child_process";
import { once } from "node:events";
import { afterAll, afterEach, beforeAll, expect, test } from "vitest";
import { fillWithMessages, freshDatabase, type Fresh } from "./database";
import { startWeb, type WebApp } from "./web";

/** What a process says of itself to whoever runs it: whether it is to be given work, how it is, and nothing of mail. */

const ROOT = new URL("../..", import.meta.url).pathname;
const SECRET = "zirconia";

let fresh: Fresh;
let first: number;
let app: WebApp;
let watch: string;
let said = "";
beforeAll(async () => {
  fresh = await freshDatabase();
  [first] = (await fillWithMessages(fresh, 5)) as [number];
  const { freePort } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    freePort: () => Promise<number>;
  };
  const port = await freePort();
  watch = `http://127.0.0.1:${port}`;
  app = await startWeb(fresh.url, { METRICS_PORT: String(port), TACHYNE_LOG: "json" }, (text) => (said += text));
});
afterAll(async () => {
  app.process.kill("SIGKILL");
  await fresh.drop();
});

const ask = (path: string) => fetch(app.base + path, { headers: app.headers as Record<string, string> });
const figures = async () => (await fetch(`${watch}/metrics`)).text();
/** The value of a figure; NaN where there is none. */
const valueOf = (text: string, line: string): number =>
  Number(
    text
      .split("\n")
      .find((one) => one.startsWith(`${line} `))
      ?.split(" ")
      .at(-1) ?? NaN,
  );

test("requests are counted by the route they took, and nothing that is somebody's is in a figure", async () => {
  for (let i = 0; i < 3; i++) expect((await ask(`/messages/${first + i}`)).status).toBe(200);
  expect((await ask(`/calendar-addresses/${SECRET}.ics`)).status).toBe(404);
  expect((await ask(`/contacts/${encodeURIComponent(`${SECRET}@post.example`)}`)).ok).toBe(true);
  const text = await figures();
  const count = (route: string, status: number) =>
    valueOf(text, `tachyne_request_seconds_count{method="GET",route="${route}",status="${status}"}`);
  expect(count("/messages/{id}", 200)).toBe(3);
  expect(count("/calendar-addresses/{secret}", 404)).toBe(1);
  expect(count("/contacts/{address}", 200)).toBe(1);
  expect(text).not.toContain(SECRET);
  expect(text).not.toContain(`/messages/${first}`);
  // How the process itself is.
  expect(valueOf(text, "process_resident_memory_bytes")).toBeGreaterThan(10_000_000);
  expect(text).toContain("nodejs_eventloop_lag_seconds");
});

test("open windows are counted, and no more once they are gone", async () => {
  const stop = new AbortController();
  await fetch(`${app.base}/events?after=0`, {
    headers: app.headers as Record<string, string>,
    signal: stop.signal,
  });
  await expect.poll(async () => valueOf(await figures(), "tachyne_event_streams")).toBe(1);
  stop.abort();
  await expect.poll(async () => valueOf(await figures(), "tachyne_event_streams")).toBe(0);
});

test("a fault of ours is logged with where it was and what was asked, and without what was in it", async () => {
  const { sql } = fresh.db;
  await sql.unsafe("alter table label rename to label_away");
  try {
    const answer = await ask(`/labels?name=${SECRET}`);
    expect(answer.status).toBe(500);
    expect(await answer.text()).not.toContain("label_away");
  } finally {
    await sql.unsafe("alter table label_away rename to label");
  }
  await expect.poll(() => said).toContain("a request failed");
  const lines = said.split("\n").filter((line) => line.startsWith("{"));
  const entry = JSON.parse(lines.find((line) => line.includes("a request failed"))!) as Record<string, unknown>;
  expect(entry).toMatchObject({ level: "error", process: "web", method: "GET", route: "/labels", code: "42P01" });
  expect(Date.parse(entry.at as string)).toBeGreaterThan(Date.now() - 600_000);
  expect(said).not.toContain(SECRET);
  expect((await ask("/labels")).status).toBe(200);
});

test("it is ready once its database is of its version, and not while that is older or away", async () => {
  const ready = async () => [(await ask("/ready")).status, (await fetch(`${watch}/ready`)).status];
  expect(await ready()).toEqual([200, 200]);
  const { sql } = fresh.db;
  const last = await sql`delete from drizzle.__drizzle_migrations
    where created_at = (select max(created_at) from drizzle.__drizzle_migrations) returning hash, created_at`;
  expect(await ready()).toEqual([503, 503]);
  expect(await (await fetch(`${watch}/ready`)).text()).toContain("npm start -- migrate");
  await sql`insert into drizzle.__drizzle_migrations (hash, created_at)
    values (${last[0]!.hash}, ${Number(last[0]!.created_at) + 1})`;
  // What a newer version has added is none of its business.
  expect(await ready()).toEqual([200, 200]);
});

test("what is no figure is not there, and nothing is taken in", async () => {
  expect((await fetch(`${watch}/`)).status).toBe(404);
  expect((await fetch(`${watch}/metrics`, { method: "POST" })).status).toBe(405);
});

let jobs: ReturnType<typeof spawn> | null = null;
afterEach(() => void jobs?.kill("SIGKILL"));
test("the job process says what waits, how its work goes and when it is to end", async () => {
  const { freePort } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    freePort: () => Promise<number>;
  };
  const port = await freePort();
  const own = `http://127.0.0.1:${port}`;
  await fresh.db.sql`insert into account (person, kind, name, address, trouble)
    values (${fresh.context.person}, 'internet', 'x', 'x@post.example', ${SECRET})`;
  jobs = spawn(process.execPath, ["dist/jobs.mjs"], {
    cwd: ROOT,
    env: { ...process.env, DATABASE_URL: fresh.url, METRICS_PORT: String(port), TACHYNE_LOG: "json" },
    stdio: ["ignore", "ignore", "pipe"],
  });
  let text = "";
  jobs.stderr!.setEncoding("utf8").on("data", (piece: string) => (text += piece));
  const seen = async () => (await fetch(`${own}/metrics`).catch(() => null))?.text() ?? "";
  await expect
    .poll(async () => valueOf(await seen(), `tachyne_work_seconds_count{work="sending"}`), { timeout: 60_000 })
    .toBeGreaterThan(0);
  const now = await seen();
  expect(valueOf(now, `tachyne_waiting{what="accounts"}`)).toBe(1);
  expect(valueOf(now, `tachyne_waiting{what="letters"}`)).toBe(0);
  expect((await fetch(`${own}/ready`)).status).toBe(200);
  // The words of the messages there are.
  await expect.poll(() => text, { timeout: 60_000 }).toContain('"what":"indexed words"');
  for (const line of text.split("\n").filter((one) => one.startsWith("{")))
    expect(JSON.parse(line)).toMatchObject({ process: "jobs", at: expect.any(String) as string });
  expect(text + now).not.toContain(SECRET);
  const ended = once(jobs, "exit");
  jobs.kill("SIGTERM");
  expect((await ended)[0]).toBe(0);
});
