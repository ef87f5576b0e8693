import { spawn, type ChildProcess } from "node:child_process";
import { setTimeout as pause } from "node:timers/promises";
import { asHeaders, makeLink, signIn } from "../signed-in";

const ROOT = new URL("../..", import.meta.url).pathname;
const LOOK_EVERY_MS = 100;
const PATIENCE_MS = 120_000;

export interface WebApp {
  readonly process: ChildProcess;
  readonly port: number;
  /** Where the API is. */
  readonly base: string;
  /** Of requests by the first person; none where there is nobody. */
  readonly headers: { readonly cookie?: string };
}

/**
 * The built app on a port of its own, once it answers.
 * @param url its database
 * @param more what else its environment says
 * @param said told what it writes to its standard error
 * @param at the port of one that has ended, where it is to come in its place
 */
export async function startWeb(
  url: string,
  more: Readonly<Record<string, string>> = {},
  said: (text: string) => void = () => {},
  at?: number,
): Promise<WebApp> {
  const { freePort } = (await import("../../scripts/setup/cluster.mjs" as string)) as {
    freePort: () => Promise<number>;
  };
  const { KEPT_OPEN } = (await import("../../scripts/setup/web.mjs" as string)) as { KEPT_OPEN: string[] };
  const port = at ?? (await freePort());
  const env = {
    ...process.env,
    DATABASE_URL: url,
    NODE_ENV: "production",
    NEXT_TELEMETRY_DISABLED: "1",
    ...more,
  } as const;
  const args = ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port), ...KEPT_OPEN];
  const child = spawn(process.execPath, args, { cwd: ROOT, env, stdio: ["ignore", "ignore", "pipe"] });
  child.stderr.setEncoding("utf8").on("data", said);
  const base = `http://127.0.0.1:${port}/api/v1`;
  const isThere = () =>
    fetch(`${base}/health`).then(
      (answer) => answer.ok,
      () => false,
    );
  for (const began = Date.now(); !(await isThere());) {
    if (Date.now() - began > PATIENCE_MS) throw new Error("the app did not start");
    await pause(LOOK_EVERY_MS);
  }
  const link = makeLink({ DATABASE_URL: url });
  const headers = link === null ? {} : asHeaders(await signIn(`http://127.0.0.1:${port}`, link));
  return { process: child, port, base, headers };
}

export async function endWeb({ process }: WebApp): Promise<void> {
  const ended = new Promise((resolve) => process.on("exit", resolve));
  process.kill("SIGKILL");
  await ended;
}
