import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterEach, expect, test } from "vitest";
import { builtPages, scriptsIn } from "./policy";

/** As `openssl dgst -sha256 -binary | base64` has it of `let a = 1;`. */
const KNOWN = "'sha256-xY6QKfH9PRsQnLz56nj6MBwiK5oHg+im1Jkpdp1x/Ck='";

let folder = "";
afterEach(() => rmSync(folder, { recursive: true, force: true }));

test("scripts that stand in a page are named by their digests, and those that are loaded are not", () => {
  const html = [
    "<head><script>let a = 1;</script>",
    '<script src="/one.js" async=""></script><script async src="/two.js">let a = 1;</script>',
    '<script id="_R_">let a = 1;</script><script></script>',
    "<script>\nlet a = 1;\n</script></head>",
  ].join("");
  const found = scriptsIn(html);
  expect(found.slice(0, 2)).toEqual([KNOWN, KNOWN]);
  expect(found).toHaveLength(4);
  // Each space counts, as it does for browsers.
  expect(new Set(found).size).toBe(3);
});

test("pages are those that the build says it has made, whatever else lies there", () => {
  folder = mkdtempSync(join(tmpdir(), "tachyne-build-"));
  const app = join(folder, "server", "app");
  mkdirSync(app, { recursive: true });
  const routes = { "/": {}, "/agenda": {}, "/icon.svg": {} };
  writeFileSync(join(folder, "prerender-manifest.json"), JSON.stringify({ routes }));
  for (const name of ["index", "agenda", "left-over"])
    writeFileSync(join(app, `${name}.html`), "<script>let a = 1;</script>");
  expect([...builtPages(folder)]).toEqual([
    ["/", [KNOWN]],
    ["/agenda", [KNOWN]],
  ]);
});

test("without a build it says what is to be done", () => {
  folder = mkdtempSync(join(tmpdir(), "tachyne-build-"));
  expect(() => builtPages(folder)).toThrow("npm run build");
});
