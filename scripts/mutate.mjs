import { spawn } from "node:child_process";
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { parseArgs } from "node:util";
import { startCluster } from "./setup/cluster.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { main, say } from "./setup/say.mjs";

const HELP = `npm run mutate -- [options]

Puts small faults into the core, one at a time, in a copy of the project, and runs the tests that reach them.
A fault that no test notices shows what is not tested. (The well-known testers of this kind need a later Node.)

  --each N      faults a room, spread over it by the seed     (default 12)
  --seed N      other faults                                  (default 7)
  --only ROOM   one room, such as ledger or store; without it the table goes to docs/testing.md`;

/** What stands below it on the page is written by this program. */
const HEADING = "## Faults put in, and noticed";

/** Where faults are put; those of the server need its tests, and so a database. */
const ROOMS = {
  agenda: "src/core/agenda",
  calendar: "src/core/calendar",
  ics: "src/core/calendar/ics",
  change: "src/core/change",
  card: "src/core/card",
  columns: "src/core/columns",
  deceit: "src/core/deceit",
  filing: "src/core/filing",
  keys: "src/core/keys",
  ledger: "src/core/ledger",
  letter: "src/core/letter",
  list: "src/core/list",
  macro: "src/core/macro",
  mail: "src/core/mail",
  narrow: "src/core/narrow",
  pack: "src/core/pack",
  pass: "src/core/pass",
  pace: "src/core/pace",
  rule: "src/core/rule",
  sieve: "src/core/rule/sieve",
  script: "src/core/mail/sieve",
  place: "src/core/place",
  swipe: "src/core/swipe",
  text: "src/core/text",
  thread: "src/core/thread",
  sync: "src/core/sync",
  archive: "src/core/archive",
  when: "src/core/when",
  run: "src/server/run",
  search: "src/server/search",
  store: "src/server/store",
};
const SERVER = new Set(["run", "search", "store"]);
const SERVER_TESTS = ["runs", "undo", "turn", "macros", "places", "narrow", "words", "pages"].map(
  (name) => `tests/server/${name}.test.ts`,
);
/** A fault that makes a test run for so long has been noticed. */
const PATIENCE_MS = 60_000;

/** The same numbers for the same seed (a linear congruential generator; the constants are those of Numerical Recipes). */
function random(seed) {
  let state = seed >>> 0;
  return () => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;
}

const sources = (folder) =>
  readdirSync(join(ROOT, folder))
    .filter((name) => name.endsWith(".ts") && !name.endsWith(".test.ts"))
    .map((name) => join(folder, name));

/** A sample of them, drawn without putting any back. */
function chosen(all, count, next) {
  const left = [...all];
  const out = [];
  while (out.length < count && left.length > 0) out.push(...left.splice(Math.floor(next() * left.length), 1));
  return out;
}

/** Whether the tests notice what is in the copy now. */
function noticed(copy, file, isServer, env) {
  const tests = isServer ? ["run", ...SERVER_TESTS] : ["related", "--run", file, "--exclude", "tests/**"];
  const args = [join(copy, "node_modules/vitest/vitest.mjs"), ...tests, "--bail=1", "--reporter=dot"];
  return new Promise((done) => {
    const child = spawn(process.execPath, args, {
      cwd: copy,
      stdio: "ignore",
      detached: true,
      env: { ...process.env, ...env, CI: "true" },
    });
    const end = () => {
      try {
        process.kill(-child.pid, "SIGKILL");
      } catch {
        // It has ended by itself.
      }
    };
    const timer = setTimeout(end, PATIENCE_MS);
    // Whoever ends this program ends what it runs, which may be going round for ever.
    process.once("exit", end);
    child.on("exit", (code) => (clearTimeout(timer), process.off("exit", end), end(), done(code !== 0)));
  });
}

for (const signal of ["SIGINT", "SIGTERM"]) process.once(signal, () => process.exit(1));

await main(async () => {
  const { values } = parseArgs({
    options: {
      each: { type: "string", default: "12" },
      seed: { type: "string", default: "7" },
      only: { type: "string" },
      help: { type: "boolean" },
    },
  });
  if (values.help) return console.log(HELP);
  await ensurePackages();
  const { faultsIn, withFault } = await import("./mutate/faults.mjs");
  const copy = mkdtempSync("/var/tmp/tachyne-mutate-");
  for (const name of ["src", "tests", "demo", "package.json", "tsconfig.json", "vitest.config.ts"])
    cpSync(join(ROOT, name), join(copy, name), { recursive: true });
  symlinkSync(join(ROOT, "node_modules"), join(copy, "node_modules"));
  symlinkSync(join(ROOT, "dist"), join(copy, "dist"));
  const rooms = Object.entries(ROOMS).filter(([room]) => !values.only || room === values.only);
  const cluster = rooms.some(([room]) => SERVER.has(room))
    ? await startCluster(join(copy, "database"), { settings: ["fsync = off", "max_connections = 200"] })
    : null;
  process.once("exit", () => {
    cluster?.stop();
    for (const folder of [copy, ...(cluster ? [cluster.folder] : [])]) rmSync(folder, { recursive: true, force: true });
  });
  const env = cluster ? { TEST_DATABASE_URL: cluster.url } : {};
  const next = random(Number(values.seed));
  const table = [];
  const lived = [];
  for (const [room, folder] of rooms) {
    const all = sources(folder).flatMap((file) => {
      const code = readFileSync(join(ROOT, file), "utf8");
      return faultsIn(code).map((fault) => ({ file, code, fault }));
    });
    let killed = 0;
    const some = chosen(all, Number(values.each), next);
    for (const { file, code, fault } of some) {
      writeFileSync(join(copy, file), withFault(code, fault));
      const found = await noticed(copy, file, SERVER.has(room), env);
      writeFileSync(join(copy, file), code);
      if (found) killed++;
      else lived.push(`${file}:${fault.line} ${fault.what}`);
      say(`${room}: ${found ? "noticed" : "LIVED  "} ${file}:${fault.line} ${fault.what}`);
    }
    table.push({ room, killed, of: some.length, all: all.length });
  }
  const killed = table.reduce((sum, row) => sum + row.killed, 0);
  const of = table.reduce((sum, row) => sum + row.of, 0);
  const share = Math.round((100 * killed) / of);
  const lines = [
    HEADING,
    "",
    `\`npm run mutate -- --each ${values.each} --seed ${values.seed}\`: ${killed} of ${of} noticed, ${share} %.`,
    "",
    "| room | noticed | of those put in | of all that fit |",
    "| --- | ---: | ---: | ---: |",
    ...table.map((row) => `| ${row.room} | ${row.killed} | ${row.of} | ${row.all} |`),
    "",
    "Not noticed:",
    "",
    ...(lived.length > 0 ? lived.map((line) => `- \`${line}\``) : ["none"]),
    "",
  ];
  const page = join(ROOT, "docs/testing.md");
  if (!values.only) {
    const { format, resolveConfig } = await import("prettier");
    const text = readFileSync(page, "utf8").split(`${HEADING}\n`)[0] + lines.join("\n");
    writeFileSync(page, await format(text, { ...(await resolveConfig(page)), filepath: page }));
  }
  console.log(lines.join("\n"));
});
