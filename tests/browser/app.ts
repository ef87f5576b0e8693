import { spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { createServer } from "node:net";
import { test as base, expect, type Page } from "@playwright/test";
import postgres from "postgres";
import { CHROMIUM } from "./chromium";
import { ROOT, serverUrl, templateOf, USUAL } from "./prepare";

export interface App {
  readonly address: string;
  readonly stop: () => Promise<void>;
  readonly start: () => Promise<void>;
  /** Kills both processes in the middle of whatever they do, and starts them anew. */
  readonly restartAll: () => Promise<void>;
  /** How many messages match, as the server sees it. */
  readonly count: (narrow: string) => Promise<number>;
  readonly get: <T>(path: string) => Promise<T>;
}

const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

interface Launched extends App {
  /** Starts the jobs: until then no mail comes in, whenever the rest was started. */
  readonly startJobs: () => void;
  readonly end: () => Promise<void>;
}

const LOOK_EVERY_MS = 50;
const PATIENCE_MS = 90_000;

/** Waits until an address answers. What a test waits with ends with the test; apps are started while another one runs. */
async function answers(address: string): Promise<void> {
  const ok = () =>
    fetch(address).then(
      (answer) => answer.ok,
      () => false,
    );
  for (const began = Date.now(); !(await ok());) {
    if (Date.now() - began > PATIENCE_MS) throw new Error(`nothing answers at ${address}`);
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}

/** An app with a database of its own, made from a template. */
async function launch(messages: number): Promise<Launched> {
  const name = `b_${randomBytes(5).toString("hex")}`;
  const admin = postgres(serverUrl("postgres"), { max: 1, onnotice: () => {} });
  await admin.unsafe(`create database ${name} template ${templateOf(messages)}`);
  const port = await freePort();
  const address = `http://127.0.0.1:${port}`;
  const env = {
    ...process.env,
    DATABASE_URL: serverUrl(name),
    TACHYNE_KEY: randomBytes(32).toString("base64"),
    NODE_ENV: "production",
    NEXT_TELEMETRY_DISABLED: "1",
  } as NodeJS.ProcessEnv;
  const run = (...args: string[]) =>
    spawn(process.execPath, args, { cwd: ROOT, env, stdio: ["ignore", "ignore", "inherit"] });
  let web: ChildProcess | null = null;
  let jobs: ChildProcess | null = null;
  const kill = async (process: ChildProcess | null) => {
    if (!process) return;
    const ended = new Promise((resolve) => process.on("exit", resolve));
    process.kill("SIGKILL");
    await ended;
  };
  const start = async () => {
    web = run("node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port));
    await answers(`${address}/api/v1/health`);
  };
  const stop = async () => {
    await kill(web);
    web = null;
  };
  const startJobs = () => {
    jobs = run("dist/jobs.mjs");
  };
  const restartAll = async () => {
    await Promise.all([stop(), kill(jobs)]);
    startJobs();
    await start();
  };
  const end = async () => {
    await Promise.all([stop(), kill(jobs)]);
    await admin.unsafe(`drop database ${name} with (force)`);
    await admin.end();
  };
  const get = async <T>(path: string) => (await (await fetch(`${address}/api/v1${path}`)).json()) as T;
  const count = async (narrow: string) =>
    (await get<{ total: number }>(`/messages?limit=1&narrow=${encodeURIComponent(narrow)}`)).total;
  await start();
  return { address, start, startJobs, stop, restartAll, get, count, end };
}

/** Each test has an app and a database of its own, so that none sees what another did. */
export const test = base.extend<{ app: App; messages: number }, { ahead: Map<number, Promise<Launched>> }>({
  /** How many messages the demo world has; for another number its template has to be made first. */
  messages: [USUAL, { option: true }],
  browser: [
    async ({ playwright }, use) => {
      const browser = await playwright.chromium.launch(CHROMIUM);
      await use(browser);
      await browser.close();
    },
    { scope: "worker" },
  ],
  viewport: { width: 1280, height: 800 },
  /** The next test's app, started while this one's is used: starting is a third of what a test takes. */
  ahead: [
    async ({}, use) => {
      const ahead = new Map<number, Promise<Launched>>();
      await use(ahead);
      for (const app of ahead.values()) await (await app).end();
    },
    { scope: "worker" },
  ],
  app: async ({ messages, ahead }, provide) => {
    const app = await (ahead.get(messages) ?? launch(messages));
    if (messages === USUAL) ahead.set(messages, launch(messages));
    app.startJobs();
    await provide(app);
    await app.end();
  },
});

export { expect };

/** Opens the bench and waits until the whole index is there. */
export async function openBench(page: Page, app: App): Promise<void> {
  await page.goto(app.address);
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await expect(page.getByText(/^read [\d,]+ of/)).toHaveCount(0);
}

export const focusedId = (page: Page) => page.locator("[data-focused]").getAttribute("data-id");
export const notice = (page: Page) => page.getByTestId("notice");
export const counted = async (page: Page): Promise<number> =>
  Number(/^([\d,]+)/.exec(await page.getByTestId("count").innerText())![1]!.replaceAll(",", ""));

const NAMED: Readonly<Record<string, { code: string; key: string; virtual: number }>> = {
  "=": { code: "Equal", key: "=", virtual: 187 },
  f: { code: "KeyF", key: "f", virtual: 70 },
};

/** Presses keys that carry times 100 ms apart, as from a hand, however long `between` and the machine take. */
export async function strokes(page: Page, keys: readonly string[], between?: () => Promise<void>): Promise<void> {
  const input = await page.context().newCDPSession(page);
  const began = Date.now() / 1000;
  for (const [i, name] of keys.entries()) {
    if (i > 0) await between?.();
    const { code, key, virtual: windowsVirtualKeyCode } = NAMED[name]!;
    const stroke = { code, key, windowsVirtualKeyCode, timestamp: began + i / 10 };
    await input.send("Input.dispatchKeyEvent", { ...stroke, type: "keyDown", text: key });
    await input.send("Input.dispatchKeyEvent", { ...stroke, type: "keyUp" });
  }
  await input.detach();
}
