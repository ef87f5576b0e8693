import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";
import { expect, test } from "vitest";

/** What others wrote and is installed: what may come in, and nothing that is not used. */

const ROOT = new URL("../..", import.meta.url).pathname;
const json = <T>(name: string) => JSON.parse(readFileSync(join(ROOT, name), "utf8")) as T;

interface Locked {
  readonly version: string;
  readonly integrity?: string;
  readonly resolved?: string;
  readonly license?: string;
  readonly hasInstallScript?: boolean;
}
const { packages } = json<{ packages: Record<string, Locked> }>("package-lock.json");
const { dependencies } = json<{ dependencies: Record<string, string> }>("package.json");
const locked = Object.entries(packages).filter(([path]) => path !== "");
const nameOf = (path: string): string => path.slice(path.lastIndexOf("node_modules/") + "node_modules/".length);
const those = (is: (one: Locked, name: string) => boolean): string[] =>
  locked.filter(([path, one]) => is(one, nameOf(path))).map(([path]) => path);

/** Terms that let the app be run, changed and passed on, alone or several at once. */
const TERMS = new Set([
  "0BSD",
  "Apache-2.0",
  "BlueOak-1.0.0",
  "BSD-2-Clause",
  "BSD-3-Clause",
  "CC-BY-4.0",
  "CC0-1.0",
  "ISC",
  "LGPL-3.0-or-later",
  "MIT",
  "MIT-0",
  "MPL-2.0",
  "OFL-1.1",
  "Python-2.0",
  "Unlicense",
]);
/** Programs that run while they are installed. */
const MAY_RUN = new Set(["esbuild"]);
/** What is used without being named in a program: a peer of others. */
const UNNAMED = new Set(["react-dom"]);

test("each package is held to the bytes that were looked at", () => {
  expect(locked.length).toBeGreaterThan(100);
  expect(those(({ integrity }) => !integrity?.startsWith("sha512-"))).toEqual([]);
  // Without an address it comes from whichever registry is asked.
  expect(those(({ resolved }) => resolved !== undefined)).toEqual([]);
});

test("nothing runs by being installed, but what is known to", () => {
  expect(those(({ hasInstallScript }, name) => hasInstallScript === true && !MAY_RUN.has(name))).toEqual([]);
});

test("all may be passed on", () => {
  const may = (terms: string | undefined): boolean => {
    if (terms === undefined) return false;
    const either = terms.replace(/[()]/g, "").split(" OR ");
    return either.some((each) => each.split(" AND ").every((one) => TERMS.has(one)));
  };
  expect(those(({ license }) => !may(license))).toEqual([]);
});

/** All text of programs and settings. */
function* sources(folder: string): Generator<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* sources(path);
    else if (/\.(ts|tsx|mjs|css)$/.test(entry.name)) yield readFileSync(path, "utf8");
  }
}

test("what the app is run with is used by it", () => {
  const text = ["src", "scripts", "demo", "bin"].flatMap((folder) => [...sources(join(ROOT, folder))]).join("\n");
  const isUsed = (name: string) =>
    new RegExp(`["']${name.replace(/[/.]/g, "\\$&")}(/[^"']*)?["']`).test(text) || UNNAMED.has(name);
  expect(Object.keys(dependencies).filter((name) => !isUsed(name))).toEqual([]);
});
