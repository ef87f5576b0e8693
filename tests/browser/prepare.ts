import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import postgres from "postgres";

export const ROOT = new URL("../..", import.meta.url).pathname;
/** How many messages the demo world of most tests has. */
export const USUAL = 1400;
/** A database with a demo world of that size, copied for each test. */
export const templateOf = (messages: number): string => `tachyne_demo_${messages}`;

export const serverUrl = (name: string): string => {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set: run the tests with npm test");
  return url.replace(/\/[^/]*$/, `/${name}`);
};

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
}

export default async function prepare(): Promise<void> {
  await makeTemplate(USUAL);
}
