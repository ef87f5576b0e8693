import { spawn } from "node:child_process";
import { existsSync } from "node:fs";
import { join } from "node:path";
import { ROOT } from "./setup/packages.mjs";
import { main, Trouble } from "./setup/say.mjs";
import { firstAddress, makeLink } from "./setup/sign-in.mjs";
import { KEPT_OPEN } from "./setup/web.mjs";

const HELP = `npm start -- web | jobs | migrate

  web        the web server; as many of them as are wanted may run on one database
  jobs       the job process; the same
  migrate    brings the database to this version; before the others are started

DATABASE_URL       PostgreSQL, 15 or later
TACHYNE_KEY_FILE   a file of mode 0600 with 32 bytes in base64, the same for all processes; or TACHYNE_KEY
TACHYNE_ORIGIN     where the app is reached: https://mail.larch.example; without it from this machine only
HOST, PORT         where the web server listens (127.0.0.1, 4300)
METRICS_PORT       where this process serves /metrics and /ready, at METRICS_HOST (127.0.0.1); without it, nowhere
TACHYNE_LOG        json: what happens as an object a line; otherwise for reading`;

/** One process of either kind, from what the environment says; it ends as its child does. */
const { HOST = "127.0.0.1", PORT = "4300", DATABASE_URL, TACHYNE_KEY, TACHYNE_KEY_FILE, TACHYNE_ORIGIN } = process.env;
/** A day. */
const FIRST_MINUTES = 1440;

const PROGRAMS = {
  web: ["node_modules/next/dist/bin/next", "start", "-H", HOST, "-p", PORT, ...KEPT_OPEN],
  jobs: ["dist/jobs.mjs"],
  migrate: ["dist/setup.mjs", "src/server/db/migrations"],
};

await main(async () => {
  const [what = ""] = process.argv.slice(2);
  if (!Object.hasOwn(PROGRAMS, what)) throw new Trouble(HELP);
  if (!DATABASE_URL) throw new Trouble(`DATABASE_URL is not set.\n\n${HELP}`);
  if (what !== "migrate" && !TACHYNE_KEY && !TACHYNE_KEY_FILE)
    throw new Trouble(`Neither TACHYNE_KEY_FILE nor TACHYNE_KEY is set.\n\n${HELP}`);
  if (!existsSync(join(ROOT, "dist", "setup.mjs")) || !existsSync(join(ROOT, ".next", "BUILD_ID")))
    throw new Trouble("Nothing is built yet: npm install, then npm run build.");
  const child = spawn(process.execPath, PROGRAMS[what], {
    cwd: ROOT,
    env: { ...process.env, NODE_ENV: "production", NEXT_TELEMETRY_DISABLED: "1" },
    stdio: "inherit",
  });
  for (const signal of ["SIGTERM", "SIGINT", "SIGHUP"]) process.on(signal, () => child.kill(signal));
  process.exitCode = await new Promise((done, failed) => {
    child.on("error", failed);
    child.on("exit", (code) => done(code ?? 1));
  });
  if (what !== "migrate" || process.exitCode !== 0 || !TACHYNE_ORIGIN) return;
  const first = makeLink({ DATABASE_URL }, "--first", "--minutes", String(FIRST_MINUTES));
  if (first !== null)
    console.log(
      `Nobody has begun here yet. The first person begins, within a day, by\n${firstAddress(TACHYNE_ORIGIN, first)}`,
    );
});
