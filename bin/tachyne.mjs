#!/usr/bin/env node
import { randomUUID } from "node:crypto";
import { createWriteStream, rmSync } from "node:fs";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { parseArgs } from "node:util";

/** The command line: what the API does, by hand or from a script. Plain Node, on its own. */

const HELP = `npx tachyne COMMAND

  macros                                 the macros there are
  list NARROWING [--limit N]             messages that match, newest first
  run MACRO --on NARROWING [--dry]       runs a macro by its name; --dry says what it would do
      [--answer QUESTION=VALUE]…         answers what it asks
      [--id UUID]                        the same id again does nothing twice, should the answer not arrive
  undo [RUN]                             takes the last run back, or the one with that id
  redo [RUN]                             does what was taken back last again, or that one
  ledger [--limit N]                     the last runs
  export NARROWING --out FILE            messages as they came in; FILE ends in .mbox or .zip

  --json                                 the API's own answer

TACHYNE_TOKEN   a token, made under You      TACHYNE_URL   where the app is (http://127.0.0.1:4300)

Ends with 0; 1 for what could not be done; 2 for what was not understood; 3 where a macro asks.`;

const { TACHYNE_URL: url = "http://127.0.0.1:4300", TACHYNE_TOKEN: token } = process.env;
const [OK, FAILED, MISUSED, ASKS] = [0, 1, 2, 3];

/** Ends the program with words for the person. */
class Ended extends Error {
  constructor(code, text) {
    super(text);
    this.code = code;
  }
}
const misused = (text) => new Ended(MISUSED, `${text}\n\n${HELP}`);

async function ask(method, path, body) {
  const headers = { authorization: `Bearer ${token}`, ...(body ? { "content-type": "application/json" } : {}) };
  const answer = await fetch(`${url}/api/v1${path}`, {
    method,
    headers,
    ...(body ? { body: JSON.stringify(body) } : {}),
  }).catch((error) => {
    throw new Ended(FAILED, `${url} does not answer (${error.cause?.code ?? error.message}). Is the app running?`);
  });
  if (answer.ok) return answer;
  const problem = await answer.json().catch(() => null);
  throw new Ended(FAILED, problem ? `${problem.title}: ${problem.detail}` : `${answer.status} ${answer.statusText}`);
}
const read = async (method, path, body) => (await ask(method, path, body)).json();

const plural = (n, one) => `${n.toLocaleString("en")} ${one}${n === 1 ? "" : "s"}`;
/** Nothing in mail may move the cursor, or say something in the program's name. */
const plain = (text) => String(text).replace(/[\p{Cc}\p{Cf}]/gu, " ");
const valueText = (value) =>
  Array.isArray(value) ? value.join(", ") || "none" : value === null || value === "" ? "none" : JSON.stringify(value);

/** @param lines each a text, or fields with tabs between */
function print(json, answer, lines) {
  const text = (line) => (Array.isArray(line) ? line.map(plain).join("\t") : plain(line));
  console.log(json ? JSON.stringify(answer, null, 2) : lines.map(text).join("\n"));
}

const entryLine = (entry) =>
  `${entry.at}  ${entry.id}  ${entry.macro.name}${entry.about ? `: ${entry.about}` : ""}, ${plural(entry.changed, "message")}${entry.state === "done" ? "" : ` (${entry.state})`}`;

async function macroNamed(name) {
  const macros = await read("GET", "/macros");
  const found = macros.find((macro) => macro.name.toLowerCase() === name.toLowerCase());
  if (found) return found;
  throw new Ended(FAILED, `There is no macro "${name}". There are: ${macros.map((macro) => macro.name).join(", ")}.`);
}

function answersOf(given = []) {
  const pairs = given.map((pair) => {
    const at = pair.indexOf("=");
    if (at < 1) throw misused(`--answer takes QUESTION=VALUE, not "${pair}".`);
    return [pair.slice(0, at), pair.slice(at + 1)];
  });
  return Object.fromEntries(pairs);
}

function dryLines({ messages, totals, skipped, letters, irreversible }) {
  return [
    ...messages.flatMap(({ id, before, after, made }) => [
      `${id}`,
      ...Object.keys(after).map((cell) => `    ${cell}: ${valueText(before[cell])} → ${valueText(after[cell])}`),
      ...made.map((what) => `    ${what}`),
    ]),
    ...letters.map(({ to, subject }) => `would write to ${to.join(", ")}: ${subject}`),
    ...(skipped.length > 0 ? [`left alone: ${plural(skipped.length, "message")}`] : []),
    ...(irreversible.length > 0 ? [`not taken back by undo: ${irreversible.join(", ")}`] : []),
    `would do: ${
      Object.entries(totals)
        .map(([what, n]) => `${what} ${n.toLocaleString("en")}`)
        .join(", ") || "nothing"
    }`,
  ];
}

async function run([name], { on, dry = false, answer, id = randomUUID(), json }) {
  if (!name || on === undefined) throw misused("run takes a macro's name and --on NARROWING.");
  const macro = await macroNamed(name);
  const request = { id, macro: macro.id, target: { narrow: on }, answers: answersOf(answer), dry };
  const done = await read("POST", "/runs", request);
  if (done.asks.length > 0 && !dry) {
    const lines = done.asks.map((one) => `It asks: ${one.prompt} (--answer "${one.id}=…")`);
    throw new Ended(ASKS, json ? JSON.stringify(done, null, 2) : lines.map(plain).join("\n"));
  }
  if (dry) return print(json, done, dryLines(done));
  const left = done.skipped.length > 0 ? `, ${plural(done.skipped.length, "message")} left alone` : "";
  print(json, done, [`${macro.name}: ${plural(done.changed, "message")}${left}. Take it back: undo ${done.entry.id}`]);
}

/** What the person did, and not what followed from looking at messages. */
const isDeed = ({ actor, cause }) => actor === "person" && cause !== "reading";

/** The person's last run that still stands and can be taken back; null for none. */
const lastDone = (entries) =>
  entries.find((one) => isDeed(one) && one.kind === "run" && one.state === "done" && one.restorable > 0)?.id ?? null;

/** What was taken back last, unless something was done since; null for nothing. */
function lastUndone(entries) {
  const again = new Set();
  for (const { kind, of } of entries.filter(isDeed)) {
    if (kind === "run") return null;
    if (kind === "redo") again.add(of);
    else if (!again.delete(of)) return of;
  }
  return null;
}

/** @param what "undo" or "redo", of the last run that can be */
async function back(what, [id], { json }) {
  const last = what === "undo" ? lastDone : lastUndone;
  const of = id ?? last(await read("GET", "/ledger?limit=200&others=1"));
  if (!of) throw new Ended(FAILED, `There is nothing to ${what}.`);
  const done = await read("POST", `/ledger/${of}/${what}`, { id: randomUUID() });
  const left = done.skipped.length > 0 ? `, ${plural(done.skipped.length, "message")} left alone` : "";
  print(json, done, [
    `${what === "undo" ? "Took back" : "Did again"} ${done.entry.macro.name}: ${plural(done.restored, "message")}${left}.`,
  ]);
}

const COMMANDS = {
  macros: async (_, { json }) => {
    const macros = await read("GET", "/macros");
    print(
      json,
      macros,
      macros.map(({ name, steps }) => `${name}  (${plural(steps.length, "step")})`),
    );
  },
  list: async ([narrow], { limit = "50", json }) => {
    if (narrow === undefined) throw misused('list takes a narrowing: "" for all mail.');
    const query = new URLSearchParams({ narrow, limit, order: "newest" });
    const answer = await read("GET", `/messages?${query}`);
    const lines = answer.rows.map(({ id, date, from, subject }) => [id, date, from.name || from.address, subject]);
    print(json, answer, [...lines, plural(answer.total, "message")]);
  },
  run,
  undo: (args, options) => back("undo", args, options),
  redo: (args, options) => back("redo", args, options),
  ledger: async (_, { limit = "20", json }) => {
    const entries = await read("GET", `/ledger?${new URLSearchParams({ limit })}`);
    print(json, entries, entries.map(entryLine));
  },
  export: async ([narrow], { out }) => {
    if (narrow === undefined || !out) throw misused("export takes a narrowing and --out FILE.");
    const format = /\.(mbox|zip)$/i.exec(out)?.[1].toLowerCase();
    if (!format) throw misused("FILE ends in .mbox or .zip.");
    const answer = await ask("GET", `/export?${new URLSearchParams({ narrow, format })}`);
    // Never over a file that is there.
    await pipeline(Readable.fromWeb(answer.body), createWriteStream(out, { flags: "wx" })).catch((error) => {
      if (error.code === "EEXIST") throw new Ended(FAILED, `${out} is there already.`);
      // Half of an export must not be taken for all of it.
      rmSync(out, { force: true });
      throw new Ended(FAILED, `${out}: ${error.message}`);
    });
    console.log(out);
  },
};

async function main() {
  let read;
  try {
    read = parseArgs({
      allowPositionals: true,
      options: {
        on: { type: "string" },
        dry: { type: "boolean" },
        answer: { type: "string", multiple: true },
        id: { type: "string" },
        limit: { type: "string" },
        out: { type: "string" },
        json: { type: "boolean" },
        help: { type: "boolean" },
      },
    });
  } catch (error) {
    throw misused(error.message);
  }
  const [name, ...args] = read.positionals;
  if (read.values.help) return console.log(HELP);
  const command = Object.hasOwn(COMMANDS, name ?? "") ? COMMANDS[name] : null;
  if (!command) throw misused(name === undefined ? "Say what to do." : `There is no command "${name}".`);
  if (!token) throw new Ended(MISUSED, "Set TACHYNE_TOKEN to a token: the app makes one under You.");
  await command(args, read.values);
}

try {
  await main();
  process.exitCode = OK;
} catch (error) {
  if (!(error instanceof Ended)) throw error;
  console.error(error.message);
  process.exitCode = error.code;
}
