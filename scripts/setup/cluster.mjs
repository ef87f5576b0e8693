import { spawnSync } from "node:child_process";
import { createHash, randomBytes } from "node:crypto";
import {
  appendFileSync,
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { createServer } from "node:net";
import { dirname, join } from "node:path";
import { installDebian } from "./packages.mjs";
import { say, Trouble } from "./say.mjs";

/** A private PostgreSQL cluster on loopback, in a folder of its own. */

const VERSIONS = "/usr/lib/postgresql";

/** The newest server here, 15 or later. */
function findServer() {
  if (!existsSync(VERSIONS)) return null;
  const found = readdirSync(VERSIONS)
    .map(Number)
    .filter(
      (v) =>
        v >= 15 &&
        existsSync(join(VERSIONS, String(v), "bin", "initdb")) &&
        existsSync(join(VERSIONS, String(v), "bin", "postgres")),
    )
    .sort((a, b) => b - a)[0];
  return found ? join(VERSIONS, String(found), "bin") : null;
}

export async function ensureServer() {
  let bin = findServer();
  if (!bin) {
    await installDebian(["postgresql"], "PostgreSQL 15 or later");
    bin = findServer();
  }
  if (!bin) throw new Trouble(`PostgreSQL was installed, but no version 15 or later is under ${VERSIONS}.`);
  return bin;
}

/** initdb refuses root; then the user that Debian's package made for it owns the cluster. */
function owner() {
  if (process.getuid() !== 0) return {};
  const line = readFileSync("/etc/passwd", "utf8")
    .split("\n")
    .find((l) => l.startsWith("postgres:"));
  if (!line)
    throw new Trouble("Running as root, and there is no user postgres to run the database as. Run as another user.");
  const [, , uid, gid] = line.split(":").map(Number);
  return { uid, gid };
}

/**
 * Where a server's files are: in `home`, unless its owner may not walk down to it, as below /root. Then
 * in a folder of its own under /var/lib, always the same for the same home.
 * @param {string} name of the folder in it
 */
export function placeFor(home, { uid, gid }, name) {
  mkdirSync(home, { recursive: true });
  chmodSync(home, 0o755);
  const reachable = spawnSync("test", ["-x", home], { uid, gid, cwd: "/" }).status === 0;
  if (reachable) return join(home, name);
  const other = join("/var/lib/tachyne", createHash("sha256").update(home).digest("hex").slice(0, 12));
  mkdirSync(other, { recursive: true, mode: 0o755 });
  say(`the user that ${name} runs as may not enter ${home}: its files are in ${other}`);
  return join(other, name);
}

export function freePort() {
  return new Promise((resolve, reject) => {
    const server = createServer();
    server.on("error", reject);
    server.listen(0, "127.0.0.1", () => {
      const { port } = server.address();
      server.close(() => resolve(port));
    });
  });
}

/** The pid of the cluster's server if it really runs: a stale file, a reused pid or a zombie does not count. */
export function runningPid(folder) {
  const file = join(folder, "postmaster.pid");
  if (!existsSync(file)) return null;
  const pid = Number(readFileSync(file, "utf8").split("\n")[0]);
  try {
    const [, name, state] = /\((.*)\) (\S)/.exec(readFileSync(`/proc/${pid}/stat`, "utf8")) ?? [];
    if (name?.startsWith("postgres") && state !== "Z" && readlinkSync(`/proc/${pid}/cwd`) === folder) return pid;
  } catch {
    // No such process: the file is stale.
  }
  return null;
}

const portOf = (folder) => Number(readFileSync(join(folder, "postmaster.pid"), "utf8").split("\n")[3]);

/**
 * Makes the cluster if there is none and starts it if it does not run.
 * @param {string} home an absolute folder; the cluster is in home/postgres
 * @param port to listen on, for one that is started again; else a free one
 * @returns {Promise<{ folder: string, url: string, port: number, stop: () => void, pid: () => number | null }>} a database "tachyne" on it
 */
export async function startCluster(home, { settings = [], port: wanted = null } = {}) {
  const bin = await ensureServer();
  const user = owner();
  const folder = placeFor(home, user, "postgres");
  const options = { ...user, cwd: "/", env: { PATH: process.env.PATH, LC_ALL: "C.UTF-8" } };
  const passwordFile = join(home, "password");
  if (!existsSync(join(folder, "PG_VERSION"))) {
    say("making a database cluster");
    if (!existsSync(passwordFile)) writeFileSync(passwordFile, randomBytes(18).toString("hex"), { mode: 0o600 });
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder, { mode: 0o700 });
    if (user.uid !== undefined) chownSync(folder, user.uid, user.gid);
    const handed = join(dirname(folder), "handed");
    writeFileSync(handed, readFileSync(passwordFile), { mode: 0o600 });
    if (user.uid !== undefined) chownSync(handed, user.uid, user.gid);
    const made = spawnSync(
      join(bin, "initdb"),
      [
        "-D",
        folder,
        "-U",
        "tachyne",
        "--encoding=UTF8",
        "--locale=C.UTF-8",
        "--auth=scram-sha-256",
        `--pwfile=${handed}`,
      ],
      { ...options, encoding: "utf8" },
    );
    rmSync(handed, { force: true });
    if (made.status !== 0) throw new Trouble(`The database cluster could not be made in ${folder}.\n${made.stderr}`);
    const lines = [
      "listen_addresses = '127.0.0.1'",
      "unix_socket_directories = ''",
      "shared_buffers = '256MB'",
      "max_wal_size = '2GB'",
      "checkpoint_timeout = '15min'",
      ...settings,
    ];
    appendFileSync(join(folder, "postgresql.conf"), `\n${lines.join("\n")}\n`);
  }
  if (runningPid(folder) === null) {
    rmSync(join(folder, "postmaster.pid"), { force: true });
    const port = wanted ?? (await freePort());
    const log = join(folder, "server.log");
    const done = spawnSync(
      join(bin, "pg_ctl"),
      ["-D", folder, "-w", "-t", "60", "-l", log, "-o", `-p ${port}`, "start"],
      {
        ...options,
        stdio: "ignore",
      },
    );
    if (done.status !== 0) {
      const tail = existsSync(log) ? readFileSync(log, "utf8").split("\n").slice(-12).join("\n") : "";
      throw new Trouble(`The database did not start. Its log, ${log}, ends with:\n${tail}`);
    }
  }
  const url = (name) =>
    `postgres://tachyne:${readFileSync(passwordFile, "utf8").trim()}@127.0.0.1:${portOf(folder)}/${name}`;
  await ensureDatabase(url("postgres"));
  return {
    folder,
    url: url("tachyne"),
    port: portOf(folder),
    pid: () => runningPid(folder),
    stop: () =>
      spawnSync(join(bin, "pg_ctl"), ["-D", folder, "-m", "fast", "-w", "stop"], { ...options, stdio: "ignore" }),
  };
}

async function ensureDatabase(url) {
  const { default: postgres } = await import("postgres");
  const sql = postgres(url, { max: 1, onnotice: () => {} });
  const [found] = await sql`select 1 from pg_database where datname = 'tachyne'`;
  if (!found) await sql`create database tachyne`;
  await sql.end();
}
