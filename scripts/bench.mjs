import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { spawn } from "node:child_process";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { build } from "./build.mjs";
import { ensureChromium } from "./setup/browser.mjs";
import { startCluster } from "./setup/cluster.mjs";
import { ensureMailServer } from "./setup/mail-server.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, Trouble } from "./setup/say.mjs";

/**
 * The sections of the page there was, the one of this size replaced or added, small mailboxes first:
 * a mailbox of a million stays part of the page when the usual one is measured again.
 */
function withSection(page, report) {
  const titleOf = (section) => /^[^;\n]*/.exec(section)[0];
  const size = (section) => Number(/^[\d,]+/.exec(section)?.[0].replaceAll(",", "") ?? 0);
  const kept = page.split(/^## /m).slice(1);
  const others = kept.filter((section) => titleOf(section) !== titleOf(report));
  const sections = [...others, report].sort((a, b) => size(a) - size(b));
  return sections.map((section) => `## ${section.trim()}\n`).join("\n");
}

/** Runs the benchmark to its end, in a group of its own: ended itself, this ends all of that, and tidies up. */
function measure(args, env) {
  const child = spawn(process.execPath, args, { cwd: ROOT, stdio: "inherit", env, detached: true });
  for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => process.kill(-child.pid, signal));
  return new Promise((resolve, reject) => {
    child.on("error", reject);
    child.on("exit", (code) =>
      code === 0 ? resolve() : reject(new Trouble("The benchmark did not come to its end; its last words are above.")),
    );
  });
}

/**
 * npm run bench [-- --messages 1000000]: measures, prints, and writes its section of docs/benchmarks.md.
 * With --far an account of so many messages comes in over a line that is slower than both machines.
 * With --people 50 so many people with so many messages each are at work at once; with --minutes 60 beside it for so long.
 */
await main(async () => {
  const { values } = parseArgs({
    options: {
      messages: { type: "string", default: "100000" },
      far: { type: "boolean", default: false },
      people: { type: "string" },
      minutes: { type: "string" },
    },
  });
  if (!/^\d{5,8}$/.test(values.messages)) throw new Trouble("--messages takes a number from 10000 on");
  if (!/^([2-9]|[1-9]\d{1,3})?$/.test(values.people ?? "")) throw new Trouble("--people takes a number from 2 on");
  await ensurePackages();
  await ensureChromium();
  await ensureMailServer();
  await build();
  const home = mkdtempSync("/var/tmp/tachyne-bench-");
  const cluster = await startCluster(home);
  const out = join(home, "report.md");
  try {
    const worker = join(ROOT, "dist/parse-worker.mjs");
    const what =
      values.people === undefined
        ? [
            `tests/bench/${values.far ? "far" : "main"}.ts`,
            cluster.url,
            "src/server/db/migrations",
            worker,
            values.messages,
            out,
          ]
        : ["tests/bench/people/main.ts", values.people, values.messages, "20", out, values.minutes ?? ""];
    await measure(["--import", "tsx", ...what], { ...process.env, TEST_DATABASE_URL: cluster.url });
    const page = join(ROOT, "docs", "benchmarks.md");
    const head =
      "# Benchmarks\n\nMade by `npm run bench`. Ratios to a floor measured in the same run: absolute times drift between machines.\nThe database writes safely to disk (fsync on).\n";
    const { format, resolveConfig } = await import("prettier");
    const text = `${head}\n${withSection(existsSync(page) ? readFileSync(page, "utf8") : "", readFileSync(out, "utf8"))}\n`;
    writeFileSync(page, await format(text, { ...(await resolveConfig(page)), parser: "markdown" }));
  } finally {
    cluster.stop();
    rmSync(home, { recursive: true, force: true });
  }
});
