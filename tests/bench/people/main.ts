import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { spawn } from "node:child_process";
import { cpus, totalmem } from "node:os";
import { openDatabase } from "@/server/db";
import { makeTemplate, serverUrl, templateOf, USUAL } from "../../browser/prepare";
import { startWeb, endWeb } from "../../server/web";
import { asHeaders, makeLink, signIn } from "../../signed-in";
import { say } from "../figures";
import { Desk, KINDS, noTimes, type Kind, type Times } from "./desk";
import { addressOf, fillPeople } from "./fill";

/**
 * Many people at work at once on one machine: how long they wait, and what gives out first. What asks runs on the same
 * machine, and takes its part of it.
 */
const [people = "50", messages = "20000", seconds = "20", out, again] = process.argv.slice(2);
const [PEOPLE, MESSAGES, SECONDS] = [Number(people), Number(messages), Number(seconds)];
/** Seconds between two things that somebody does, from at ease to more than anybody does. */
const PACES = [4, 2, 1, 0.5];
/** New letters a second, for all of them together. */
const ARRIVING = 1;

const TICKS = 100;
/** Seconds of processor by what took them; the database's with what its ended processes took. */
function processor(): Record<string, number> {
  const used: Record<string, number> = { web: 0, jobs: 0, database: 0, "these people": 0 };
  for (const pid of readdirSync("/proc").filter((name) => /^\d+$/.test(name)))
    try {
      const command = readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ");
      const stat = readFileSync(`/proc/${pid}/stat`, "utf8");
      const field = stat
        .slice(stat.lastIndexOf(")") + 2)
        .split(" ")
        .map(Number);
      const [own, children] = [field[11]! + field[12]!, field[13]! + field[14]!];
      if (Number(pid) === process.pid) used["these people"]! += own / TICKS;
      else if (command.includes("next-server")) used.web! += own / TICKS;
      else if (command.includes("dist/jobs.mjs")) used.jobs! += own / TICKS;
      else if (/\/postgres .*-D/.test(command)) used.database! += (own + children) / TICKS;
      else if (command.startsWith("postgres:")) used.database! += own / TICKS;
    } catch {
      // It ended meanwhile.
    }
  return used;
}

const residentMb = (pid: number): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))![1]) / 1024;
/** The web server is a child of what starts it. */
const residentWeb = (): number =>
  readdirSync("/proc")
    .filter((name) => /^\d+$/.test(name))
    .filter((pid) => {
      try {
        return readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("next-server");
      } catch {
        return false;
      }
    })
    .reduce((sum, pid) => sum + residentMb(Number(pid)), 0);

const share = (times: readonly number[], part: number): string =>
  times.length === 0 ? "" : [...times].sort((a, b) => a - b)[Math.floor((times.length - 1) * part)]!.toFixed(0);

if (!again) await makeTemplate(USUAL);
const url = serverUrl(templateOf(USUAL));
const db = openDatabase(url, 4);
const began = performance.now();
const made = () => fillPeople(db, PEOPLE, MESSAGES);
const there = async () =>
  (await db.sql<{ id: number }[]>`select id::int as id from person order by id`).map(({ id }) => id);
const all = await (again ? there() : made());
const [size] = await db.sql<{ gb: number }[]>`select pg_database_size(current_database())::float8 / 1e9 as gb`;
if (!again) say(`made in ${((performance.now() - began) / 1000).toFixed(0)} s, ${size!.gb.toFixed(1)} GB`);

const app = await startWeb(url);
const jobs = spawn(process.execPath, ["dist/jobs.mjs"], {
  env: { ...process.env, DATABASE_URL: url },
  stdio: "ignore",
});
const desks: Desk[] = [];
const rssEmpty = residentWeb();
for (const [i, person] of all.entries()) {
  const link = makeLink({ DATABASE_URL: url }, ...(i === 0 ? [] : ["--address", addressOf(i + 1)]))!;
  const headers = asHeaders(await signIn(`http://127.0.0.1:${app.port}`, link));
  const inbox = await db.sql<{ id: number }[]>`
    select s.message as id from message_state s join folder f on f.person = s.person and f.id = s.folder
    where s.person = ${person} and f.role = 'inbox' order by s.message desc limit 2000`;
  const [at] = await db.sql<{ seq: number }[]>`select seq::int as seq from person where id = ${person}`;
  const desk = new Desk(
    app.base,
    headers,
    inbox.map(({ id }) => id),
    Math.random,
  );
  await desk.open(at!.seq);
  desks.push(desk);
}

const lines = [
  `## ${PEOPLE} people with ${MESSAGES.toLocaleString("en")} messages each; ${cpus().length} × ${cpus()[0]!.model}, ${Math.round(totalmem() / 2 ** 30)} GiB`,
  `The database is ${size!.gb.toFixed(1)} GB. Times in milliseconds, half · 95 % · 99 %.`,
  `| a person does something every | in a second | ${KINDS.join(" | ")} | refused | processor: web, jobs, database, what asks (%) |`,
  `| ---: | ---: | ${KINDS.map(() => "---:").join(" | ")} | ---: | --- |`,
];
for (const pace of PACES) {
  for (const desk of desks) Object.assign(desk, { times: noTimes(), failures: 0 });
  const before = processor();
  const start = performance.now();
  const isOver = () => performance.now() - start > SECONDS * 1000;
  const sleeping = (s: number) => new Promise((resolve) => setTimeout(resolve, s * 1000));
  const letters = (async () => {
    for (let n = 0; !isOver(); n++, await sleeping(1 / ARRIVING)) {
      const raw = `From: X <x@post.example>\r\nTo: ${addressOf(1)}\r\nSubject: late ${pace} ${n}\r\nDate: Thu, 26 Nov 2026 08:00:00 +0000\r\nMessage-ID: <p${pace}.${n}@post.example>\r\n\r\nHello.\r\n`;
      await db.sql`insert into simulated_mail (person, account, raw) select person, id, ${Buffer.from(raw)} from account limit 1`;
    }
  })();
  await Promise.all([
    letters,
    ...desks.map(async (desk) => {
      await sleeping(Math.random() * pace);
      while (!isOver()) {
        const since = performance.now();
        await desk.act();
        await sleeping(Math.max(0, -Math.log(1 - Math.random()) * pace - (performance.now() - since) / 1000));
      }
    }),
  ]);
  const took = (performance.now() - start) / 1000;
  const after = processor();
  const times: Times = noTimes();
  for (const desk of desks) for (const kind of KINDS) times[kind].push(...desk.times[kind]);
  const cell = (kind: Kind) => [0.5, 0.95, 0.99].map((part) => share(times[kind], part)).join(" · ");
  const asked = KINDS.filter((kind) => kind !== "told").reduce((sum, kind) => sum + times[kind].length, 0);
  const refused = desks.reduce((sum, { failures }) => sum + failures, 0);
  const used = Object.keys(after).map((name) =>
    (((after[name]! - before[name]!) / took / cpus().length) * 100).toFixed(0),
  );
  lines.push(
    `| ${pace} s | ${(asked / took).toFixed(0)} | ${KINDS.map(cell).join(" | ")} | ${refused} | ${used.join(", ")} |`,
  );
  say(lines.at(-1)!);
}
const rss = residentWeb();
lines.push(
  `Memory of the web process: ${rssEmpty.toFixed(0)} MB without anybody, ${rss.toFixed(0)} MB with ${PEOPLE} windows after all of that; of the job process ${residentMb(jobs.pid!).toFixed(0)} MB.`,
);
for (const desk of desks) desk.close();
jobs.kill("SIGTERM");
await endWeb(app);
await db.close();
const text = `${lines.slice(0, 2).join("\n\n")}\n\n${lines.slice(2, -1).join("\n")}\n\n${lines.at(-1)!}\n`;
say(text);
if (out) writeFileSync(out, text);
process.exit(0);
