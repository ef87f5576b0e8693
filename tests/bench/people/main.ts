import { spawn } from "node:child_process";
import { writeFileSync } from "node:fs";
import { cpus, totalmem } from "node:os";
import { setTimeout as pause } from "node:timers/promises";
import { openDatabase } from "@/server/db";
import { makeTemplate, serverUrl, templateOf, USUAL } from "../../browser/prepare";
import { endWeb, startWeb } from "../../server/web";
import { asHeaders, makeLink, signIn } from "../../signed-in";
import { say, timed } from "../figures";
import { Desk, KINDS, noTimes, type Times, type Wait } from "./desk";
import { addressOf, fillPeople } from "./fill";
import { between, processor, residentMb, stolen, TAKERS, Thefts } from "./machine";

/**
 * Many people at work at once on one machine: how long they wait, and what gives out first. What asks runs on the same
 * machine, and takes its part of it. With minutes given it is a soak: one pace all the time, and what grows is seen.
 */
const [people = "50", messages = "20000", seconds = "20", out, minutes] = process.argv.slice(2);
const [PEOPLE, MESSAGES] = [Number(people), Number(messages)];
/** Seconds between two things that somebody does, from at ease to more than anybody does. */
const PACES = [4, 2, 1, 0.5];
/** Of a soak: so many parts. In an hour fifty people decide what they have in a week of five times three hundred. */
const PARTS = 12;
const SOAK_PACE = 1.44;
/** New letters a second, for all of them together. */
const ARRIVING = 1;

interface Phase {
  readonly pace: number;
  readonly seconds: number;
}
const PHASES: readonly Phase[] = minutes
  ? Array.from({ length: PARTS }, () => ({ pace: SOAK_PACE, seconds: (Number(minutes) * 60) / PARTS }))
  : PACES.map((pace) => ({ pace, seconds: Number(seconds) }));

/** Half, 95 % and 99 % are done within a time. */
const PARTS_TOLD = [0.5, 0.95, 0.99];
const share = (times: readonly number[], part: number): string =>
  times.length === 0 ? "" : [...times].sort((a, b) => a - b)[Math.floor((times.length - 1) * part)]!.toFixed(0);

await makeTemplate(USUAL);
const url = serverUrl(templateOf(USUAL));
const db = openDatabase(url, 4);
const began = performance.now();
const all = await fillPeople(db, PEOPLE, MESSAGES);
const [size] = await db.sql<{ gb: number }[]>`select pg_database_size(current_database())::float8 / 1e9 as gb`;
say(`made in ${((performance.now() - began) / 1000).toFixed(0)} s, ${size!.gb.toFixed(1)} GB`);

const app = await startWeb(url);
const jobs = spawn(process.execPath, ["dist/jobs.mjs"], {
  env: { ...process.env, DATABASE_URL: url },
  stdio: "ignore",
});
const empty = residentMb("web");

async function openDesk(person: number, i: number): Promise<Desk> {
  const link = makeLink({ DATABASE_URL: url }, ...(i === 0 ? [] : ["--address", addressOf(i + 1)]))!;
  const headers = asHeaders(await signIn(`http://127.0.0.1:${app.port}`, link));
  const inbox = await db.sql<{ id: number }[]>`
    select s.message as id from message_state s join folder f on f.person = s.person and f.id = s.folder
    where s.person = ${person} and f.role = 'inbox' order by s.message desc limit 2000`;
  const [at] = await db.sql<{ seq: number }[]>`select seq::int as seq from person where id = ${person}`;
  const ids = inbox.map(({ id }) => id);
  const desk = new Desk(app.base, headers, ids, Math.random);
  await desk.open(at!.seq);
  return desk;
}
const desks: Desk[] = [];
for (const [i, person] of all.entries()) desks.push(await openDesk(person, i));

/** New mail for one of them, until it is over. */
async function letters(name: string, isOver: () => boolean): Promise<void> {
  for (let n = 0; !isOver(); n++, await pause(1000 / ARRIVING)) {
    const raw = `From: X <x@post.example>\r\nTo: ${addressOf(1)}\r\nSubject: late ${n}\r\nDate: Thu, 26 Nov 2026 08:00:00 +0000\r\nMessage-ID: <${name}.${n}@post.example>\r\n\r\nHello.\r\n`;
    await db.sql`insert into simulated_mail (person, account, raw) select person, id, ${Buffer.from(raw)} from account limit 1`;
  }
}

async function works(desk: Desk, pace: number, isOver: () => boolean): Promise<void> {
  await pause(Math.random() * pace * 1000);
  while (!isOver()) {
    const since = performance.now();
    await desk.act();
    await pause(Math.max(0, -Math.log(1 - Math.random()) * pace * 1000 - (performance.now() - since)));
  }
}

const FLOOR_EVERY_MS = 200;
/** A piece of work for the database that is always the same: what the machine gives then, whatever the app does. */
async function floor(isOver: () => boolean, thefts: Thefts): Promise<number[]> {
  const times: number[] = [];
  for (; !isOver(); await pause(FLOOR_EVERY_MS)) {
    times.push(await timed(() => db.sql`select sum(n) from generate_series(1, 20000) n`));
    thefts.look();
  }
  return times;
}

const msOf = (waits: readonly Wait[]): number[] => waits.map(({ ms }) => ms);

/** @returns a row of the table */
async function phase({ pace, seconds: long }: Phase, n: number): Promise<string> {
  for (const desk of desks) Object.assign(desk, { times: noTimes(), failures: 0 });
  const [before, taken] = [processor(), stolen()];
  const start = performance.now();
  const isOver = () => performance.now() - start > long * 1000;
  const thefts = new Thefts();
  const floors = floor(isOver, thefts);
  await Promise.all([letters(`p${n}`, isOver), ...desks.map((desk) => works(desk, pace, isOver))]);
  const took = (performance.now() - start) / 1000;
  const spent = between(before, processor());
  const percent = (spentSeconds: number) => ((spentSeconds / took / cpus().length) * 100).toFixed(0);
  const times: Times = noTimes();
  for (const desk of desks) for (const kind of KINDS) times[kind].push(...desk.times[kind]);
  const cellOf = (some: readonly number[]) => PARTS_TOLD.map((part) => share(some, part)).join(" · ");
  const bare = await floors;
  const keys = msOf(times.key);
  const ratio = (part: number) => (Number(share(keys, part)) / Number(share(bare, part))).toFixed(1);
  const free = times.key.filter(({ began, ms }) => thefts.isFree(began, ms));
  const freeCell = `${cellOf(msOf(free))} (${((100 * free.length) / keys.length).toFixed(0)} %)`;
  const asked = KINDS.filter((kind) => kind !== "told").reduce((sum, kind) => sum + times[kind].length, 0);
  const refused = desks.reduce((sum, { failures }) => sum + failures, 0);
  const used = [...TAKERS.map((name) => percent(spent[name])), percent(stolen() - taken)];
  const memory = `${residentMb("web").toFixed(0)}, ${residentMb("jobs").toFixed(0)}`;
  return `| ${pace} s | ${(asked / took).toFixed(0)} | ${KINDS.map((kind) => cellOf(msOf(times[kind]))).join(" | ")} | ${freeCell} | ${cellOf(bare)} | ${PARTS_TOLD.map(ratio).join(" · ")} | ${refused} | ${used.join(", ")} | ${memory} |`;
}

const kinds = KINDS.join(" | ");
const text = [
  `${PEOPLE} people with ${MESSAGES.toLocaleString("en")} messages each${minutes ? `, for ${minutes} minutes` : ""}; ${cpus().length} × ${cpus()[0]!.model}, ${Math.round(totalmem() / 2 ** 30)} GiB`,
  "",
  `The database is ${size!.gb.toFixed(1)} GB; the web process has ${empty.toFixed(0)} MB before anybody comes. Times in milliseconds: half, 95 %, 99 %. A key is one message read and archived, told is until its window's stream says so. The floor is a sum of 20,000 numbers that the database makes five times a second meanwhile, by itself: what the machine gives at that time. Others take nothing of a key where the machine under this one gave away no more than a tick of 10 ms in any fifth of a second from a second before it until its end; in brackets how many of all keys that were.`,
  "",
  `| each does something every | in a second | ${kinds} | a key while others take nothing | the floor | key ÷ floor | refused | processor, %: ${TAKERS.join(", ")}, others on the machine | MB: web, jobs |`,
  `| ---: | ---: | ${KINDS.map(() => "---:").join(" | ")} | ---: | ---: | ---: | ---: | --- | --- |`,
];
for (const [n, one] of PHASES.entries()) {
  text.push(await phase(one, n));
  say(text.at(-1)!);
}
for (const desk of desks) desk.close();
jobs.kill("SIGTERM");
await endWeb(app);
await db.close();
if (out) writeFileSync(out, `${text.join("\n")}\n`);
process.exit(0);
