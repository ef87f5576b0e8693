import { spawn, spawnSync, type ChildProcess } from "node:child_process";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { emptyDatabase, type Fresh } from "./database";

/** A server of one's own, from an empty database on, by the commands its page names. */

const ROOT = new URL("../..", import.meta.url).pathname;
const ORIGIN = "https://mail.larch.example";
const BEGUN = {
  name: "Ines",
  address: "ines@larch.example",
  password: "seven larches by the lake",
  zone: "Europe/Zurich",
};

let fresh: Fresh;
let env: NodeJS.ProcessEnv;
beforeAll(async () => {
  fresh = await emptyDatabase("");
  env = {
    ...process.env,
    DATABASE_URL: fresh.url,
    TACHYNE_ORIGIN: ORIGIN,
    TACHYNE_KEY: Buffer.alloc(32, 9).toString("base64"),
  };
});
afterAll(() => fresh.drop());

type More = Readonly<Record<string, string>>;
const run = (args: readonly string[], more: More = {}) => {
  const done = spawnSync(process.execPath, args, { cwd: ROOT, env: { ...env, ...more }, encoding: "utf8" });
  return { code: done.status, said: done.stdout, wrong: done.stderr };
};
const start = (what: string, more: More = {}) => run(["scripts/start.mjs", ...(what ? [what] : [])], more);
const secretIn = (said: string) => /https:\/\/mail\.larch\.example\/sign-in#invitation=(\S+)/.exec(said)?.[1];

async function withWeb(work: (post: (path: string, body: object) => Promise<Response>) => Promise<void>) {
  const { freePort } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    freePort: () => Promise<number>;
  };
  const port = await freePort();
  const child: ChildProcess = spawn(process.execPath, ["scripts/start.mjs", "web"], {
    cwd: ROOT,
    env: { ...env, PORT: String(port) },
    stdio: "ignore",
  });
  const ended = new Promise<number | null>((done) => child.on("exit", done));
  const base = `http://127.0.0.1:${port}/api/v1`;
  await expect
    .poll(
      () =>
        fetch(`${base}/health`).then(
          (answer) => answer.status,
          () => 0,
        ),
      { timeout: 120_000 },
    )
    .toBe(200);
  const headers = { "content-type": "application/json" };
  await work((path, body) => fetch(base + path, { method: "POST", headers, body: JSON.stringify(body) }));
  child.kill("SIGTERM");
  // Of a web server that was told to end: see the unit file.
  expect([0, 143]).toContain(await ended);
}

describe("what is missing is said, with what to do", () => {
  test.each<[string, string, More, string]>([
    ["nothing asked for", "", {}, "npm start -- web | jobs | migrate"],
    ["what there is not", "everything", {}, "npm start -- web | jobs | migrate"],
    ["no database", "web", { DATABASE_URL: "" }, "DATABASE_URL is not set"],
    ["no key", "web", { TACHYNE_KEY: "" }, "Neither TACHYNE_KEY_FILE nor TACHYNE_KEY is set"],
  ])("%s", (_, what, more, said) => {
    const { code, wrong } = start(what, more);
    expect(code).toBe(1);
    expect(wrong).toContain(said);
  });
});

test("the first person begins by the link that migrating prints, once, and whoever comes first does not", async () => {
  expect(secretIn(start("migrate", { TACHYNE_ORIGIN: "" }).said)).toBeUndefined();
  const link = secretIn(start("migrate").said);
  expect(link).toBeDefined();
  const another = secretIn(run(["scripts/sign-in.mjs"]).said);
  expect(another).not.toBe(link);
  await withWeb(async (post) => {
    const first = await post("/sign-in/first", BEGUN);
    expect(first.status).toBe(403);
    expect(((await first.json()) as { detail: string }).detail).toContain("npm run sign-in");
    expect((await post("/sign-in/invited", { ...BEGUN, link })).status).toBe(200);
    const again = { ...BEGUN, address: "other@larch.example" };
    expect((await post("/sign-in/invited", { ...again, link })).status).toBe(401);
  });
  const people = await fresh.db.sql<{ address: string }[]>`select address from person`;
  expect(people.map(({ address }) => address)).toEqual([BEGUN.address]);
  expect(secretIn(start("migrate").said)).toBeUndefined();
  expect(run(["scripts/sign-in.mjs"]).said).toMatch(/^https:\/\/mail\.larch\.example\/sign-in#link=\d+\.\S{43}\n$/);
  expect(run(["scripts/sign-in.mjs", "--address", "nobody@larch.example"])).toMatchObject({ code: 1 });
}, 180_000);
