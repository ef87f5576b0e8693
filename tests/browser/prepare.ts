import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import postgres from "postgres";
import { makeLink } from "../signed-in";

export const ROOT = new URL("../..", import.meta.url).pathname;
/** How many messages the demo world of most tests has. */
export const USUAL = 1400;
/** A link that lets a test into its copy of a template: each copy has it, not yet used. */
export const linkOf = (messages: number): string => process.env[linkName(messages)]!;
const linkName = (messages: number): string => `TACHYNE_TEST_LINK_${messages}`;
/** A database with a demo world of that size, copied for each test. */
export const templateOf = (messages: number): string => `tachyne_demo_${messages}`;

export const serverUrl = (name: string): string => {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set: run the tests with npm test");
  return url.replace(/\/[^/]*$/, `/${name}`);
};

/** The size of a world without anybody in it. */
export const NOBODY = 0;

/** Makes the template of a database in which nobody has begun. */
export async function makeEmptyTemplate(): Promise<void> {
  const template = templateOf(NOBODY);
  const admin = postgres(serverUrl("postgres"), { max: 1, onnotice: () => {} });
  await admin.unsafe(`drop database if exists ${template}`);
  await admin.unsafe(`create database ${template}`);
  await admin.end();
  execFileSync(process.execPath, ["dist/setup.mjs", "src/server/db/migrations"], {
    cwd: ROOT,
    env: { ...process.env, DATABASE_URL: serverUrl(template) },
    stdio: ["ignore", "ignore", "inherit"],
  });
}

/** Makes the template anew, through the same import as a person's own mail. */
export async function makeTemplate(messages: number): Promise<void> {
  const template = templateOf(messages);
  const admin = postgres(serverUrl("postgres"), { max: 1, onnotice: () => {} });
  await admin.unsafe(`drop database if exists ${template}`);
  await admin.unsafe(`create database ${template}`);
  await admin.end();
  const mail = mkdtempSync("/var/tmp/tachyne-mail-");
  const env = { ...process.env, DATABASE_URL: serverUrl(template) };
  const run = (...args: string[]) =>
    execFileSync(process.execPath, args, { cwd: ROOT, env, stdio: ["ignore", "ignore", "inherit"] });
  run("dist/demo.mjs", "--out", mail, "--messages", String(messages));
  // A service that brings nothing by itself: tests count.
  run("dist/setup.mjs", "src/server/db/migrations", join(mail, "beginning.json"), "--simulated", "0");
  const files = JSON.parse(readFileSync(join(mail, "files.json"), "utf8")) as { folder: string; path: string }[];
  for (const { folder, path } of files) run("dist/import.mjs", path, "--folder", folder, "--quiet");
  rmSync(mail, { recursive: true });
  await settle(template, env);
  // Workers begin with what is set here.
  process.env[linkName(messages)] = makeLink(env, "--minutes", "1000")!;
}

const LOOK_EVERY_MS = 100;

/** Lets the jobs read words and learn once what each copy would have to read and learn beside its test. */
async function settle(template: string, env: NodeJS.ProcessEnv): Promise<void> {
  const jobs = spawn(process.execPath, ["dist/jobs.mjs"], { cwd: ROOT, env, stdio: ["ignore", "ignore", "inherit"] });
  const ended = once(jobs, "exit");
  const sql = postgres(serverUrl(template), { max: 1, onnotice: () => {} });
  const left = async () =>
    (
      await sql<{ left: number }[]>`select (select count(*) from filing_due)::integer + (select count(*) from message m
      where m.id > coalesce((select through from word_index w where w.person = m.person), 0))::integer as left`
    )[0]!.left;
  // Nor does a report of what could not be delivered, which three letters in a hundred would bring.
  await sql`update simulator set bounces = 0`;
  while (jobs.exitCode === null && (await left()) > 0)
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  await sql.end();
  jobs.kill("SIGTERM");
  await ended;
  if (jobs.exitCode !== 0) throw new Error(`the jobs ended with ${jobs.exitCode}`);
}

export default async function prepare(): Promise<void> {
  await makeTemplate(USUAL);
}
