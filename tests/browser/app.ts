import { spawn, type ChildProcess } from "node:child_process";
import { randomBytes } from "node:crypto";
import { createServer } from "node:net";
import { test as base, expect, type BrowserContext, type Page } from "@playwright/test";
import postgres from "postgres";
import { CHROMIUM } from "./chromium";
import { asCookie, asHeaders, makeLink, signIn, type Cookie } from "../signed-in";
import { linkOf, ROOT, serverUrl, templateOf, USUAL } from "./prepare";

export interface App {
  readonly address: string;
  /** Of its database. */
  readonly database: string;
  readonly stop: () => Promise<void>;
  readonly start: () => Promise<void>;
  /** Kills both processes in the middle of whatever they do, and starts them anew. */
  readonly restartAll: () => Promise<void>;
  /** How many messages match, as the server sees it. */
  readonly count: (narrow: string) => Promise<number>;
  readonly get: <T>(path: string) => Promise<T>;
  /** A request to the API by the person of the app. @param path behind /api/v1 */
  readonly fetch: (path: string, init?: RequestInit) => Promise<Response>;
  /** The secret part of another link for the person, not yet used. */
  readonly link: () => string;
  /** Of such a request. */
  readonly headers: { readonly cookie?: string };
  /** Signs the person in where a page of that context asks. */
  readonly letIn: (context: BrowserContext) => Promise<void>;
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
async function launch(messages: number, isIn: boolean): Promise<Launched> {
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
  const { KEPT_OPEN } = (await import("../../scripts/setup/web.mjs" as string)) as { KEPT_OPEN: string[] };
  const start = async () => {
    web = run("node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port), ...KEPT_OPEN);
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
  let cookie: Cookie | null = null;
  const headers = () => (cookie ? asHeaders(cookie) : {});
  const ask = (path: string, init: RequestInit = {}) =>
    fetch(`${address}/api/v1${path}`, {
      ...init,
      headers: { ...headers(), ...(init.headers as Record<string, string> | undefined) },
    });
  const letIn = async (context: BrowserContext) => {
    if (cookie) await context.addCookies([asCookie(address, cookie)]);
  };
  const link = () => makeLink(env)!;
  const get = async <T>(path: string) => (await (await ask(path)).json()) as T;
  const count = async (narrow: string) =>
    (await get<{ total: number }>(`/messages?limit=1&narrow=${encodeURIComponent(narrow)}`)).total;
  await start();
  if (isIn) cookie = await signIn(address, linkOf(messages));
  const database = serverUrl(name);
  return {
    address,
    database,
    start,
    startJobs,
    stop,
    restartAll,
    get,
    count,
    end,
    fetch: ask,
    headers: headers(),
    letIn,
    link,
  };
}

/** Each test has an app and a database of its own, so that none sees what another did. */
export const test = base.extend<
  { app: App; messages: number; isIn: boolean },
  { ahead: Map<number, Promise<Launched>> }
>({
  /** How many messages the demo world has; for another number its template has to be made first. */
  messages: [USUAL, { option: true }],
  /** Whether the test begins signed in, with the link its template has. */
  isIn: [true, { option: true }],
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
  app: async ({ messages, ahead, isIn, context }, provide) => {
    const isUsual = messages === USUAL && isIn;
    const app = await ((isUsual ? ahead.get(messages) : null) ?? launch(messages, isIn));
    if (isUsual) ahead.set(messages, launch(messages, isIn));
    app.startJobs();
    await app.letIn(context);
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
