import { spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { join, resolve } from "node:path";
import { parseArgs } from "node:util";
import { build } from "./build.mjs";
import { NOTE, takeAlone } from "./setup/alone.mjs";
import { freePort, startCluster } from "./setup/cluster.mjs";
import { startImapDemo } from "./setup/imap-demo.mjs";
import { ensurePackages, ROOT } from "./setup/packages.mjs";
import { command, main, say, Trouble } from "./setup/say.mjs";
import { asHeaders, linkAddress, makeLink, signIn } from "./setup/sign-in.mjs";
import { KEPT_OPEN } from "./setup/web.mjs";

const HELP = `npm run demo -- [options]

  --port N       the address is http://127.0.0.1:N            (default 4300, or a free one)
  --messages N   how many demo messages to make                (default 12000)
  --seed N       another seed makes another world              (default 7)
  --empty        start without mail
  --imap         the demo world lies on an IMAP server that is started too, and is connected to it
  --quiet        no new mail comes by itself; in a demo that is there already the Places screen says how much does
  --reset        throw away what is kept, and begin anew
  --data DIR     where everything is kept                      (default .data)

DATABASE_URL    use a PostgreSQL server of your own, 15 or later, instead of a private one`;

const DEFAULT_PORT = 4300;

function options() {
  try {
    const { values } = parseArgs({
      options: {
        port: { type: "string" },
        messages: { type: "string", default: "12000" },
        seed: { type: "string", default: "7" },
        empty: { type: "boolean" },
        imap: { type: "boolean" },
        quiet: { type: "boolean" },
        reset: { type: "boolean" },
        data: { type: "string", default: ".data" },
        help: { type: "boolean" },
      },
    });
    for (const name of ["port", "messages", "seed"])
      if (values[name] !== undefined && !/^\d{1,9}$/.test(values[name]))
        throw new Error(`--${name} takes a whole number, not "${values[name]}"`);
    if (values.port !== undefined && (Number(values.port) < 1 || Number(values.port) > 65535))
      throw new Error("--port takes a number from 1 to 65535");
    return values;
  } catch (error) {
    throw new Trouble(`${error.message}\n\n${HELP}`);
  }
}

const isFree = (port) =>
  new Promise((done) => {
    const server = createServer();
    server.on("error", () => done(false));
    server.listen(port, "127.0.0.1", () => server.close(() => done(true)));
  });

async function choosePort(asked) {
  const port = Number(asked ?? DEFAULT_PORT);
  if (await isFree(port)) return port;
  if (asked) throw new Trouble(`Port ${port} is in use. Choose another with --port, or leave it out.`);
  return freePort();
}

/** Demo mail: written as mailbox files, then brought in the way a person's own mail is. */
async function bringIn(env, files) {
  for (const { folder, path, messages } of files)
    await command(
      `bringing in ${messages} messages for ${folder}`,
      process.execPath,
      ["dist/import.mjs", path, "--folder", folder, "--quiet"],
      { cwd: ROOT, env },
    );
}

/** A day: whoever comes back later starts the demo again, or has a password. */
const LINK_MINUTES = "1440";

/** New mail an hour, unless it is to be quiet. */
const RATE = "4";

/** The demo's mail comes from a simulated service; an empty mailbox has none, nor has one with servers of its own. */
const service = ({ empty, imap, quiet }) => (empty || imap ? [] : ["--simulated", quiet ? "0" : RATE]);

/**
 * Brings the database to this version and fills it once. What was begun and cut off is done again: the same
 * mail makes no doubles.
 */
async function prepare(asked, env, mail, data, servers) {
  const setup = (...beginning) =>
    command(
      "preparing the database",
      process.execPath,
      ["dist/setup.mjs", "src/server/db/migrations", ...beginning, ...service(asked)],
      { cwd: ROOT, env },
    );
  const filled = join(data, "filled");
  if (asked.empty || existsSync(filled)) return setup();
  const { messages, seed } = asked;
  await command(
    `writing ${messages} demo messages`,
    process.execPath,
    ["dist/demo.mjs", "--out", mail, "--messages", messages, "--seed", seed, "--agenda"],
    { cwd: ROOT },
  );
  await setup(join(mail, "beginning.json"));
  const files = JSON.parse(readFileSync(join(mail, "files.json"), "utf8"));
  await (servers ? servers.fill(files) : bringIn(env, files));
  // What lies on a server has come from there, and nobody here has decided it.
  if (!servers)
    await command("noting what was decided before", process.execPath, ["dist/past.mjs", join(mail, "past.json")], {
      cwd: ROOT,
      env,
    });
  writeFileSync(filled, `${messages} messages, seed ${seed}\n`);
  rmSync(mail, { recursive: true, force: true });
}

/** What a part was at is taken up again by the next one; so often in a minute it may fall over. */
const RESTARTS = 5;

/**
 * Starts a program that is to run until the end; if it ends before, it is started again, unless it cannot keep on
 * its feet: then everything ends.
 * @returns how to end it
 */
function serve(name, args, env, onEnd) {
  let stopped = false;
  let left = RESTARTS;
  let child;
  const start = () => {
    child = spawn(process.execPath, args, {
      cwd: ROOT,
      env: { ...process.env, ...env },
      stdio: ["ignore", "ignore", "inherit"],
    });
    child.on("exit", (code, signal) => {
      if (stopped) return;
      const why = `${name} ended (${signal ?? code})`;
      if (left-- <= 0) return onEnd(why);
      say(`${why}; starting it again`);
      setTimeout(() => stopped || start(), 1000);
      setTimeout(() => left++, 60_000).unref();
    });
  };
  start();
  return {
    stop() {
      stopped = true;
      child.kill("SIGTERM");
    },
  };
}

/**
 * Starts the database again where it has ended, on the port the others know it by.
 * @returns how to stop looking
 */
function keepUp(cluster, data, onEnd) {
  let left = RESTARTS;
  let busy = false;
  const look = setInterval(async () => {
    if (busy || cluster.pid() !== null) return;
    busy = true;
    if (left-- <= 0) return onEnd("the database ended");
    setTimeout(() => left++, 60_000).unref();
    say("the database ended; starting it again");
    try {
      await startCluster(data, { port: cluster.port });
      busy = false;
    } catch (error) {
      onEnd(`the database ended and could not be started again: ${error.message}`);
    }
  }, 1000);
  return { stop: () => clearInterval(look) };
}

/** The key that passwords of accounts are sealed with; made once. @returns its file, which only its owner reads */
function keyFile(data) {
  const file = join(data, "key");
  if (!existsSync(file)) writeFileSync(file, `${randomBytes(32).toString("base64")}\n`, { mode: 0o600 });
  return file;
}

await main(async () => {
  const asked = options();
  if (asked.help) return console.log(HELP);
  const data = resolve(ROOT, asked.data);
  const alone = takeAlone(data);
  try {
    await run(asked, data, alone);
  } finally {
    alone.leave();
  }
});

async function run(asked, data, alone) {
  await ensurePackages();
  await build();
  const own = process.env.DATABASE_URL;
  if (asked.reset && own)
    throw new Trouble(
      "--reset empties the private database only. Empty your own server's database yourself, or leave out DATABASE_URL.",
    );
  if (asked.reset && existsSync(data)) {
    if (!existsSync(join(data, "password")))
      throw new Trouble(`${data} does not look like Tachyne's data. It is left alone.`);
    const cluster = await startCluster(data);
    cluster.stop();
    rmSync(cluster.folder, { recursive: true, force: true });
    say(`throwing away ${data}`);
    for (const name of readdirSync(data)) if (name !== NOTE) rmSync(join(data, name), { recursive: true, force: true });
  }
  const cluster = own ? null : await startCluster(data);
  const env = {
    DATABASE_URL: own ?? cluster.url,
    TACHYNE_KEY_FILE: keyFile(data),
    NODE_ENV: "production",
    NEXT_TELEMETRY_DISABLED: "1",
  };
  const mail = join(data, "demo-mail");
  const children = [];
  try {
    const servers = asked.imap ? await startImapDemo(data) : null;
    if (servers) children.push(servers);
    await prepare(asked, env, mail, data, servers);
    const port = await choosePort(asked.port);
    let ended = () => {};
    const over = new Promise((done) => (ended = done));
    for (const signal of ["SIGINT", "SIGTERM", "SIGHUP"]) process.on(signal, () => ended(null));
    children.push(
      serve(
        "the web server",
        ["node_modules/next/dist/bin/next", "start", "-H", "127.0.0.1", "-p", String(port), ...KEPT_OPEN],
        env,
        ended,
      ),
    );
    children.push(serve("the job process", ["dist/jobs.mjs"], env, ended));
    if (cluster) children.push(keepUp(cluster, data, ended));
    const address = `http://127.0.0.1:${port}`;
    await answering(`${address}/api/v1/health`);
    await servers?.connect(address, "bookings@larchhuts.example", asHeaders(await signIn(address, makeLink(env))));
    alone.at(address);
    say("ready; Ctrl-C stops everything");
    const link = makeLink(env, "--minutes", LINK_MINUTES);
    console.log(`\n  Tachyne: ${address}`);
    console.log(
      link ? `  Signs you in, once: ${linkAddress(address, link)}\n` : "  Nobody is here yet: begin there.\n",
    );
    const why = await over;
    if (why) throw new Trouble(`${why}. Its last words are above; start again with npm run demo.`);
  } finally {
    // Servers of mail are asked by the jobs until those have ended.
    for (const child of [...children].reverse()) await child.stop();
    cluster?.stop();
  }
}

async function answering(address) {
  for (let tries = 0; tries < 240; tries++) {
    const ok = await fetch(address).then(
      (response) => response.ok,
      () => false,
    );
    if (ok) return;
    await new Promise((done) => setTimeout(done, 250));
  }
  throw new Trouble("The web server did not answer within a minute.");
}
