import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import { stripVTControlCharacters } from "node:util";
import { spawn } from "node:child_process";
import { once } from "node:events";
import { build } from "./build.mjs";
import { audit } from "./setup/audit.mjs";
import { ensureChromium } from "./setup/browser.mjs";
import { startCluster } from "./setup/cluster.mjs";
import { ensureMailServer, ensureSieve } from "./setup/mail-server.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, say, Trouble } from "./setup/say.mjs";

/**
 * Everything there is to test, from a bare clone: types and lint, unit, law and server tests on a PostgreSQL
 * of their own, then the browser. `npm test -- NAME` runs only test files with that in their name.
 * `npm run test:quick` runs what needs no database and no browser, in under two minutes.
 */
const quick = process.argv.includes("--quick");
const only = process.argv.slice(2).filter((name) => name !== "--quick");
/** Folders whose tests need nothing but the packages. */
const QUICK = ["src", "demo", "tests/rules"];
const totals = { passed: 0, failed: 0, skipped: 0 };
/** Said once more at the very end, where a log that is cut still has them: name and what was wrong. */
const failures = [];

async function tool(name, args, env = {}) {
  const child = spawn(process.execPath, [join(ROOT, "node_modules", ...name), ...args], {
    cwd: ROOT,
    stdio: "inherit",
    env: { ...process.env, ...env },
  });
  const [status] = await once(child, "exit");
  return status === 0;
}

async function check(title, name, args) {
  if (await tool(name, args)) totals.passed++;
  else {
    totals.failed++;
    failures.push(title);
  }
}

/** The beginning of what a test said, without colours. */
const reason = (text) =>
  stripVTControlCharacters(text ?? "")
    .split("\n")
    .slice(0, 12)
    .join("\n    ");

async function unitTests(env, report) {
  say(quick ? "unit tests, laws and rules" : "unit, law and server tests");
  await tool(
    ["vitest", "vitest.mjs"],
    [
      "run",
      "--passWithNoTests",
      "--reporter=default",
      "--reporter=json",
      `--outputFile.json=${report}`,
      ...(quick && only.length === 0 ? QUICK : only),
    ],
    env,
  );
  const { numPassedTests, numFailedTests, numPendingTests, testResults } = JSON.parse(readFileSync(report, "utf8"));
  totals.passed += numPassedTests;
  // A file that could not be loaded ran no test, and is a failure all the same.
  totals.failed +=
    numFailedTests +
    testResults.filter((file) => file.status === "failed" && file.assertionResults.length === 0).length;
  totals.skipped += numPendingTests;
  for (const file of testResults) {
    if (file.status === "failed" && file.assertionResults.length === 0)
      failures.push(`${file.name}: ${reason(file.message)}`);
    for (const one of file.assertionResults)
      if (one.status === "failed") failures.push(`${file.name} › ${one.fullName}: ${reason(one.failureMessages[0])}`);
  }
}

async function browserTests(env, report) {
  say("browser tests");
  await tool(["@playwright", "test", "cli.js"], ["test", "--pass-with-no-tests", ...only], {
    ...env,
    PLAYWRIGHT_JSON_OUTPUT_NAME: report,
  });
  const { stats, errors, suites } = JSON.parse(readFileSync(report, "utf8"));
  totals.passed += stats.expected;
  totals.failed += stats.unexpected + stats.flaky + (errors?.length ?? 0);
  totals.skipped += stats.skipped;
  for (const error of errors ?? []) failures.push(reason(error.message));
  const specs = (suite) => [...(suite.specs ?? []), ...(suite.suites ?? []).flatMap(specs)];
  for (const spec of suites.flatMap(specs).filter((one) => !one.ok))
    failures.push(`${spec.file} › ${spec.title}: ${reason(spec.tests[0]?.results.at(-1)?.error?.message)}`);
}

/** At once: each of them has use for one processor only. */
async function staticChecks() {
  say("types, lint and format");
  await Promise.all([
    check("types", ["typescript", "bin", "tsc"], ["--noEmit"]),
    check("lint", ["eslint", "bin", "eslint.js"], ["."]),
    check("format", ["prettier", "bin", "prettier.cjs"], ["--check", "--log-level", "warn", "."]),
  ]);
}

/** Without an answer there is nothing to go by: that is said, and fails nothing. */
async function packageAudit() {
  say("what is known against the packages");
  const { found, unasked } = await audit(ROOT);
  if (unasked !== null) return say(`  not asked: ${unasked}`);
  if (found.length === 0) totals.passed++;
  else {
    totals.failed++;
    failures.push(`what is known against the packages: ${found.join("\n    ")}`);
  }
}

function close() {
  for (const failure of failures) console.log(`\nfailed: ${failure}`);
  console.log(`\n${totals.passed} passed, ${totals.failed} failed, ${totals.skipped} skipped`);
  if (totals.passed === 0) throw new Trouble("No test ran.");
  if (totals.failed > 0) process.exitCode = 1;
}

await main(async () => {
  await ensurePackages();
  if (quick) {
    const home = mkdtempSync("/var/tmp/tachyne-test-");
    await staticChecks();
    await unitTests({}, join(home, "unit.json"));
    rmSync(home, { recursive: true, force: true });
    return close();
  }
  await ensureChromium();
  await ensureMailServer();
  await ensureSieve();
  await build();
  const home = mkdtempSync("/var/tmp/tachyne-test-");
  // Tests crash servers on purpose elsewhere; this one may be fast rather than safe.
  const cluster = await startCluster(home, { settings: ["fsync = off", "max_connections = 200"] });
  const env = { TEST_DATABASE_URL: cluster.url, NEXT_TELEMETRY_DISABLED: "1" };
  try {
    if (only.length === 0) {
      await staticChecks();
      await packageAudit();
    }
    await unitTests(env, join(home, "unit.json"));
    await browserTests(env, join(home, "browser.json"));
  } finally {
    cluster.stop();
    rmSync(home, { recursive: true, force: true });
  }
  close();
});
