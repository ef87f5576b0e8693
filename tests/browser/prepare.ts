import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { join } from "node:path";
import postgres from "postgres";

export const ROOT = new URL("../..", import.meta.url).pathname;
/** A database with a small demo world, copied for each test. */
export const TEMPLATE = "tachyne_demo";

export const serverUrl = (name: string): string => {
  const url = process.env.TEST_DATABASE_URL;
  if (!url) throw new Error("TEST_DATABASE_URL is not set: run the tests with npm test");
  return url.replace(/\/[^/]*$/, `/${name}`);
};

export default async function prepare(): Promise<void> {
  const admin = postgres(serverUrl("postgres"), { max: 1, onnotice: () => {} });
  await admin.unsafe(`drop database if exists ${TEMPLATE}`);
  await admin.unsafe(`create database ${TEMPLATE}`);
  await admin.end();
  const mail = mkdtempSync("/var/tmp/tachyne-mail-");
  const env = { ...process.env, DATABASE_URL: serverUrl(TEMPLATE) };
  const run = (...args: string[]) =>
    execFileSync(process.execPath, args, { cwd: ROOT, env, stdio: ["ignore", "ignore", "inherit"] });
  run("dist/demo.mjs", "--out", mail, "--messages", "1400");
  run("dist/setup.mjs", "src/server/db/migrations", join(mail, "beginning.json"));
  const files = JSON.parse(readFileSync(join(mail, "files.json"), "utf8")) as { folder: string; path: string }[];
  for (const { folder, path } of files) run("dist/import.mjs", path, "--folder", folder, "--quiet");
  rmSync(mail, { recursive: true });
}
