import { connect } from "node:net";
import { randomBytes } from "node:crypto";
import { existsSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { freePort, placeFor } from "./cluster.mjs";
import { mailOwner, startMailServer } from "./mail-server.mjs";
import { say, Trouble } from "./say.mjs";

/** The demo world on mail servers of its own, on loopback, for seeing the whole of an account on one machine. */

const USER = "bookings";

/** What is so at each start: where the servers are, and the password. */
async function settingsIn(data) {
  const file = join(data, "imap.json");
  if (!existsSync(file)) {
    const made = { imap: await freePort(), smtp: await freePort(), password: randomBytes(9).toString("base64url") };
    writeFileSync(file, JSON.stringify(made), { mode: 0o600 });
  }
  return JSON.parse(readFileSync(file, "utf8"));
}

/** Takes letters and lets them be: nothing leaves this machine. */
async function startSink(port, password) {
  const { SMTPServer } = await import("smtp-server");
  const sink = new SMTPServer({
    disabledCommands: ["STARTTLS"],
    allowInsecureAuth: true,
    onAuth: (auth, _session, done) =>
      auth.password === password ? done(null, { user: auth.username }) : done(new Error("535 5.7.8 not the password")),
    onData: (stream, _session, done) => {
      stream.resume();
      stream.once("end", () => done());
    },
  });
  await new Promise((resolve) => sink.listen(port, "127.0.0.1", resolve));
  return () => new Promise((resolve) => sink.close(resolve));
}

/** Messages of a mailbox file as they were, with CRLF, and the flags their headers tell of. */
function* entries(file) {
  for (const part of readFileSync(file, "latin1")
    .split(/^From .*\n/m)
    .slice(1)) {
    const text = part.replace(/^>(>*From )/gm, "$1").replace(/\n$/, "");
    const head = text.slice(0, text.indexOf("\n\n"));
    const marks = [...head.matchAll(/^(?:X-)?Status: *(\w+)/gm)].map((found) => found[1]).join("");
    const flags = [
      ...(marks.includes("R") ? ["\\Seen"] : []),
      ...(marks.includes("A") ? ["\\Answered"] : []),
      ...(marks.includes("F") ? ["\\Flagged"] : []),
    ];
    const raw = text.replace(/^(?:X-)?Status:.*\n/gm, "").replace(/\r?\n/g, "\r\n");
    yield { raw: Buffer.from(raw, "latin1"), flags };
  }
}

/** Puts mailbox files onto the server, each message by an APPEND that does not wait for the one before. */
async function fill(port, password, files) {
  const socket = connect({ host: "127.0.0.1", port });
  let answered = "";
  let wake = () => {};
  socket.setEncoding("latin1").on("data", (said) => {
    answered = (answered + said).slice(-4000);
    wake();
  });
  socket.on("close", () => wake());
  const until = async (pattern) => {
    while (!pattern.test(answered)) {
      if (socket.destroyed) throw new Trouble(`The IMAP server closed the connection: ${answered.slice(-300)}`);
      await new Promise((resolve) => (wake = resolve));
    }
    if (/^(\w+ (NO|BAD)[^\n]*)/m.test(answered)) throw new Trouble(`The IMAP server says: ${RegExp.$1}`);
  };
  await until(/\* OK/);
  socket.write(`in LOGIN ${USER} ${password}\r\n`);
  await until(/^in OK/m);
  for (const [n, { folder, path, messages }] of files.entries()) {
    say(`putting ${messages} messages into ${folder} on the server`);
    const mailbox = folder === "Inbox" ? "INBOX" : folder;
    if (!["INBOX", "Sent", "Archive", "Junk", "Trash"].includes(mailbox)) socket.write(`make CREATE "${mailbox}"\r\n`);
    for (const { raw, flags } of entries(path)) {
      const before = `put APPEND "${mailbox}" (${flags.join(" ")}) {${raw.length}+}\r\n`;
      if (!socket.write(Buffer.concat([Buffer.from(before), raw, Buffer.from("\r\n")])))
        await new Promise((resolve) => socket.once("drain", resolve));
    }
    socket.write(`done${n} NOOP\r\n`);
    await until(new RegExp(`^done${n} OK`, "m"));
  }
  socket.destroy();
}

/** Connects the account, unless it is. */
async function connectAccount(address, { imap, smtp, password }, owner, headers) {
  const accounts = await (await fetch(`${address}/api/v1/accounts`, { headers })).json();
  if (accounts.some(({ kind }) => kind === "internet")) return;
  const at = (port) => ({ host: "127.0.0.1", port, security: "none" });
  const servers = { imap: at(imap), smtp: at(smtp), user: USER, method: "password" };
  const answer = await fetch(`${address}/api/v1/accounts`, {
    method: "POST",
    headers: { ...headers, "content-type": "application/json" },
    body: JSON.stringify({ name: "", address: owner, servers, secret: password, since: null }),
  });
  if (!answer.ok) throw new Trouble(`The demo's account could not be connected: ${(await answer.json()).detail}`);
}

/**
 * Starts the demo's mail servers.
 * @param {string} data where the demo keeps everything
 * @returns {Promise<{ fill: (files: object[]) => Promise<void>, connect: (address: string, owner: string, headers: object) => Promise<void>, stop: () => Promise<void> }>}
 */
export async function startImapDemo(data) {
  const settings = await settingsIn(data);
  const { imap: port, password } = settings;
  const server = await startMailServer(placeFor(data, mailOwner(), "imap"), { users: [USER], password, port });
  const endSink = await startSink(settings.smtp, password);
  say(`the demo's IMAP server is at 127.0.0.1, port ${port}: user ${USER}, password ${password}`);
  return {
    fill: (files) => fill(port, password, files),
    connect: (address, owner, headers) => connectAccount(address, settings, owner, headers),
    stop: async () => {
      await endSink();
      await server.end();
    },
  };
}
