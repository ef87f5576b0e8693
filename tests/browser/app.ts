import type { ChildProcess } from "node:child_process";
import { test as base, expect, type BrowserContext, type Page } from "@playwright/test";
import postgres from "postgres";
import { CHROMIUM } from "./chromium";
import { asCookie, asHeaders, makeLink, signIn, type Cookie } from "../signed-in";
import { linkOf, USUAL } from "./prepare";
import { kill, Server } from "./server";

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
  readonly link: (...options: string[]) => string;
  /** Of such a request. */
  readonly headers: { readonly cookie?: string };
  /** Signs the person in where a page of that context asks. */
  readonly letIn: (context: BrowserContext) => Promise<void>;
}

/** What the server of a worker shows one test: a copy of a template, which only that test sees. */
async function appOn(server: Server, messages: number, isIn: boolean) {
  let jobs: ChildProcess | null = null;
  // Until jobs are started no mail comes in.
  const startJobs = () => {
    jobs = server.run("dist/jobs.mjs");
  };
  const { address, database } = server;
  const stop = () => server.stop();
  const start = () => server.start();
  const restartAll = async () => {
    await Promise.all([stop(), kill(jobs)]);
    startJobs();
    await start();
  };
  const cookie: Cookie | null = isIn ? await signIn(address, linkOf(messages)) : null;
  const headers = cookie ? asHeaders(cookie) : {};
  const ask = (path: string, init: RequestInit = {}) =>
    fetch(`${address}/api/v1${path}`, {
      ...init,
      headers: { ...headers, ...(init.headers as Record<string, string> | undefined) },
    });
  const letIn = async (context: BrowserContext) => {
    if (cookie) await context.addCookies([asCookie(address, cookie)]);
  };
  const link = (...options: string[]) => makeLink(server.env, ...options)!;
  const get = async <T>(path: string) => (await (await ask(path)).json()) as T;
  const count = async (narrow: string) =>
    (await get<{ total: number }>(`/messages?limit=1&narrow=${encodeURIComponent(narrow)}`)).total;
  const app: App = { address, database, start, stop, restartAll, get, count, fetch: ask, headers, letIn, link };
  return { app, startJobs, endJobs: () => kill(jobs) };
}

/** Each test has a database of its own, so that none sees what another did; the web process is the same for all. */
export const test = base.extend<
  { app: App; messages: number; isIn: boolean },
  { server: Server; ahead: { copy: Promise<string> | null } }
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
  server: [
    async ({}, use) => {
      const server = await Server.make();
      await use(server);
      await server.end();
    },
    { scope: "worker" },
  ],
  /** The next test's copy, made while this one's is used. */
  ahead: [
    async ({ server }, use) => {
      const ahead: { copy: Promise<string> | null } = { copy: null };
      await use(ahead);
      if (ahead.copy) await server.drop(await ahead.copy);
    },
    { scope: "worker" },
  ],
  app: async ({ messages, server, ahead, isIn, context, browser }, provide) => {
    const isUsual = messages === USUAL;
    await server.exchange(await ((isUsual ? ahead.copy : null) ?? server.prepare(messages)));
    if (isUsual) ahead.copy = server.prepare(messages);
    const { app, startJobs, endJobs } = await appOn(server, messages, isIn);
    startJobs();
    await app.letIn(context);
    await provide(app);
    await endJobs();
    // Windows of this test's are not to ask the next one's database for anything.
    for (const other of browser.contexts()) if (other !== context) await other.close();
  },
});

export { expect };

/** Opens the bench and waits until the whole index is there. */
export async function openBench(page: Page, app: App): Promise<void> {
  await page.goto(app.address);
  await expect(page.locator("[data-place]").first()).toBeVisible();
  await expect(page.getByText(/^read [\d,]+ of/)).toHaveCount(0);
}

/** Windows were left open for longer than somebody is taken to sit there still. */
export async function leftOpen(app: App): Promise<void> {
  const sql = postgres(app.database, { max: 1, onnotice: () => {} });
  await sql`update session set proved_at = now() - interval '11 minutes'`;
  await sql.end();
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
