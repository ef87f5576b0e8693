import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { createServer, type Server } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, expect, test } from "vitest";

const { audit } = (await import("../../scripts/setup/audit.mjs" as string)) as {
  audit: (folder: string, options: readonly string[]) => Promise<{ found: string[]; unasked: string | null }>;
};

/** What is known against packages is asked of the registry as npm asks it, here of one of the test's own. */

let folder: string;
let server: Server;
let registry: string;
/** What it answers, by the status: null for one that knows no such question. */
let known: object | null = {};
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), "tachyne-audit-"));
  const own = { name: "own", version: "1.0.0", dependencies: { leaf: "1.0.0" } };
  const packages = { "": own, "node_modules/leaf": { version: "1.0.0" } };
  writeFileSync(join(folder, "package.json"), JSON.stringify(own));
  writeFileSync(join(folder, "package-lock.json"), JSON.stringify({ ...own, lockfileVersion: 3, packages }));
  server = createServer((request, response) => {
    const isAsked = request.method === "POST" && request.url?.endsWith("/advisories/bulk") === true;
    request.resume().on("end", () => {
      response.statusCode = !isAsked ? 404 : known === null ? 405 : 200;
      response.end(JSON.stringify(isAsked ? known : {}));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  registry = `http://127.0.0.1:${(server.address() as { port: number }).port}`;
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

/** With nothing in npm's cache, which keeps what was known of an advisory. */
const ask = (at = registry) =>
  audit(folder, ["--registry", at, "--fetch-retries", "0", "--cache", mkdtempSync(join(folder, "cache-"))]);
const advisory = (severity: string) => ({
  leaf: [
    { id: 1, url: "http://leaf.example/1", title: "It runs what it reads", severity, vulnerable_versions: "<2.0.0" },
  ],
});

test("what is grave is found, what is not is left, and a registry that cannot be asked is no clean one", async () => {
  known = advisory("high");
  expect(await ask()).toEqual({ found: ["leaf (high): It runs what it reads"], unasked: null });
  known = advisory("low");
  expect(await ask()).toEqual({ found: [], unasked: null });
  known = {};
  expect(await ask()).toEqual({ found: [], unasked: null });
  known = null;
  expect(await ask()).toEqual({ found: [], unasked: "the registry answers with 405" });
  expect(await ask("http://127.0.0.1:1")).toEqual({ found: [], unasked: "the registry answers nothing" });
});
