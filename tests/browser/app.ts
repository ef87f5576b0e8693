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

/** Each test has an app and a database of its own, so that none sees what another did. */
export const test = base.extend<{ app: App; messages: number }>({
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
  app: async ({ messages }, provide) => {
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
    let jobs = run("dist/jobs.mjs");
    const end = async (process: ChildProcess, signal: NodeJS.Signals) => {
      const ended = new Promise((resolve) => process.on("exit", resolve));
      process.kill(signal);
      await ended;
    };
    const start = async () => {
      web = run("node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port));
      await expect(async () => expect((await fetch(`${address}/api/v1/health`)).ok).toBe(true)).toPass({
        timeout: 30_000,
      });
    };
    const stop = async () => {
      if (!web) return;
      await end(web, "SIGKILL");
      web = null;
    };
    const restartAll = async () => {
      await Promise.all([stop(), end(jobs, "SIGKILL")]);
      jobs = run("dist/jobs.mjs");
      await start();
    };
    const get = async <T>(path: string) => (await (await fetch(`${address}/api/v1${path}`)).json()) as T;
    const count = async (narrow: string) =>
      (await get<{ total: number }>(`/messages?limit=1&narrow=${encodeURIComponent(narrow)}`)).total;
    await start();
    await provide({ address, start, stop, restartAll, get, count });
    await stop();
    await end(jobs, "SIGTERM");
    await admin.unsafe(`drop database ${name} with (force)`);
    await admin.end();
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
