import { spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { join } from "node:path";
import { build } from "esbuild";
import { WORKER } from "./database";

const ROOT = new URL("../..", import.meta.url).pathname;

/** A program that does something to a database and is killed in the middle of it. */
export interface Killed {
  /** @param killAt before which thing it asks the database; 0 for none @returns whether it was killed, and how often it asked otherwise */
  readonly run: (killAt: number) => Promise<{ killed: boolean; asked: number }>;
  readonly remove: () => void;
}

export async function killedProgram(deed: "send" | "take", url: string): Promise<Killed> {
  // Beside the packages it needs.
  const folder = mkdtempSync(join(ROOT, "node_modules", ".killed-"));
  const child = join(folder, "child.mjs");
  await build({
    absWorkingDir: ROOT,
    entryPoints: ["tests/server/killed-child.ts"],
    outfile: child,
    bundle: true,
    platform: "node",
    format: "esm",
    // It is started a hundred times: with all it needs in it that takes half as long.
    external: ["@node-rs/argon2"],
    banner: {
      js: 'import { createRequire as makeRequire } from "node:module"; const require = makeRequire(import.meta.url);',
    },
    logLevel: "warning",
  });
  const env = { ...process.env, DATABASE_URL: url, DEED: deed, WORKER };
  return {
    run: (killAt) =>
      new Promise((done) => {
        const process_ = spawn(process.execPath, [child], {
          cwd: ROOT,
          env: { ...env, KILL_AT: String(killAt) },
          stdio: ["ignore", "pipe", "inherit"],
        });
        let out = "";
        process_.stdout.on("data", (bytes: Buffer) => (out += bytes.toString()));
        process_.on("exit", (_, signal) => done({ killed: signal === "SIGKILL", asked: Number(out) }));
      }),
    remove: () => rmSync(folder, { recursive: true }),
  };
}
