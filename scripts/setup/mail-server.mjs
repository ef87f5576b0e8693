import { spawn, spawnSync } from "node:child_process";
import {
  appendFileSync,
  chmodSync,
  chownSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { freePort } from "./cluster.mjs";
import { installDebian } from "./packages.mjs";
import { Trouble } from "./say.mjs";

/** An IMAP server on loopback, in a folder of its own: Debian's Dovecot, for the tests and the demo. */

const SERVER = "/usr/sbin/dovecot";
/** Says what a Sieve script would do with the mail of a mailbox. */
export const SIEVE = "/usr/bin/sieve-filter";

export async function ensureMailServer() {
  if (!existsSync(SERVER)) await installDebian(["dovecot-imapd"], "an IMAP server");
  if (!existsSync(SERVER)) throw new Trouble(`Dovecot was installed, but is not at ${SERVER}.`);
}

/** What tests compare rules as scripts with. */
export async function ensureSieve() {
  if (!existsSync(SIEVE)) await installDebian(["dovecot-sieve"], "an interpreter of Sieve");
  if (!existsSync(SIEVE)) throw new Trouble(`The interpreter of Sieve was installed, but is not at ${SIEVE}.`);
}

/** Root may not read mail: then the user that Debian made for nobody does. */
export function mailOwner() {
  if (process.getuid() !== 0) {
    const named = (flag) => spawnSync("id", [flag], { encoding: "utf8" }).stdout.trim();
    return { user: named("-un"), group: named("-gn") };
  }
  const [, , uid, gid] = readFileSync("/etc/passwd", "utf8")
    .split("\n")
    .find((line) => line.startsWith("nobody:"))
    .split(":");
  return { user: "nobody", group: "nogroup", uid: Number(uid), gid: Number(gid) };
}

const settings = ({ folder, sockets, port, user, group, quiet }) => `
base_dir = ${sockets}
state_dir = ${folder}/state
log_path = ${folder}/log
protocols = imap
listen = 127.0.0.1
default_login_user = ${user}
default_internal_user = ${user}
default_internal_group = ${group}
mail_uid = ${user}
mail_gid = ${group}
first_valid_uid = 1
first_valid_gid = 1
mail_home = ${folder}/mail/%n
mail_location = mdbox:~/mail
mail_fsync = never
mail_max_keyword_length = 100
lock_method = fcntl
ssl = no
disable_plaintext_auth = no
auth_mechanisms = plain login
auth_failure_delay = 0
login_trusted_networks = 127.0.0.0/8
mail_max_userip_connections = 100
imap_capability = ${quiet ?? ""}
passdb {
  driver = passwd-file
  args = scheme=PLAIN username_format=%n ${folder}/users
}
userdb {
  driver = passwd-file
  args = username_format=%n ${folder}/users
}
namespace inbox {
  inbox = yes
  separator = /
${["Drafts", "Sent", "Archive", "Junk", "Trash"]
  .map((name) => `  mailbox ${name} {\n    special_use = \\${name}\n    auto = subscribe\n  }`)
  .join("\n")}
}
service anvil {
  chroot =
  unix_listener anvil-auth-penalty {
    mode = 0
  }
}
service imap-login {
  chroot =
  inet_listener imap {
    port = ${port}
  }
  inet_listener imaps {
    port = 0
  }
}
service imap {
  process_limit = 200
  vsz_limit = 1 G
}
service auth {
  user = ${user}
}
service auth-worker {
  user = ${user}
}
service stats {
  chroot =
}
service old-stats {
  chroot =
}
`;

const answers = (port) =>
  new Promise((resolve) => {
    const socket = connect({ host: "127.0.0.1", port });
    socket.once("data", () => (socket.destroy(), resolve(true))).once("error", () => resolve(false));
  });

/**
 * Starts an IMAP server for some people.
 * @param {string} folder absolute; made where it is missing
 * @param {{ users: readonly string[], password: string, port?: number, capability?: string }} options capability: what
 *   it says it can do, where that is to be less than it can
 * @returns {Promise<{ port: number, stop: () => Promise<void>, restart: () => Promise<void>, end: () => Promise<void> }>}
 *   stop: to be started anew; end: with what it left behind
 */
export async function startMailServer(folder, { users, password, port: wanted, capability }) {
  await ensureMailServer();
  const port = wanted ?? (await freePort());
  const who = mailOwner();
  // Their paths may not be long.
  const sockets = mkdtempSync(join(tmpdir(), "tm-"));
  chmodSync(sockets, 0o755);
  for (const name of ["state", "mail"]) mkdirSync(join(folder, name), { recursive: true });
  chmodSync(folder, 0o755);
  writeFileSync(join(folder, "users"), users.map((name) => `${name}:{PLAIN}${password}::::::\n`).join(""));
  writeFileSync(join(folder, "dovecot.conf"), settings({ folder, sockets, port, ...who, quiet: capability }));
  appendFileSync(join(folder, "log"), "");
  if (who.uid !== undefined)
    for (const path of [
      sockets,
      ...["", "state", "mail", "users", "log", "dovecot.conf"].map((name) => join(folder, name)),
    ])
      chownSync(path, who.uid, who.gid);
  let child = null;
  const start = async () => {
    rmSync(join(sockets, "master.pid"), { force: true });
    child = spawn(SERVER, ["-F", "-c", join(folder, "dovecot.conf")], {
      cwd: "/",
      stdio: "ignore",
      detached: true,
      ...(who.uid === undefined ? {} : { uid: who.uid, gid: who.gid }),
    });
    for (let tries = 0; !(await answers(port)); tries++) {
      if (tries > 200 || child.exitCode !== null)
        throw new Trouble(
          `The IMAP server does not start; ${join(folder, "log")} says why:\n${readFileSync(join(folder, "log"), "utf8").slice(-800)}`,
        );
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const stop = () =>
    new Promise((resolve) => {
      const over = () => resolve();
      if (!child || child.exitCode !== null) return over();
      child.once("exit", over);
      // Those who serve its connections are of its group.
      process.kill(-child.pid, "SIGTERM");
    });
  const end = async () => {
    await stop();
    rmSync(sockets, { recursive: true, force: true, maxRetries: 5 });
  };
  await start();
  return { port, stop, restart: async () => (await stop(), start()), end };
}
