import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { describe, expect, test } from "vitest";

const ROOT = new URL("../..", import.meta.url).pathname;
const files = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "src", "demo", "scripts", "tests"], {
  cwd: ROOT,
  encoding: "utf8",
})
  .split("\n")
  .filter((file) => /\.(tsx?|mjs)$/.test(file));
const lines = (file: string) => readFileSync(`${ROOT}/${file}`, "utf8").split("\n").length;

describe("files", () => {
  test("stay short: none over 400 lines, half of them under 200", () => {
    const sizes = files.map((file) => ({ file, size: lines(file) })).sort((a, b) => a.size - b.size);
    expect(sizes.length).toBeGreaterThan(100);
    expect(sizes.filter(({ size }) => size > 400)).toEqual([]);
    expect(sizes[Math.floor(sizes.length / 2)]!.size).toBeLessThan(200);
  });

  test("routes decode, ask one use case and encode: 40 lines at most", () => {
    const routes = files.filter((file) => /^src\/app\/.*\/(route|page)\.tsx?$/.test(file));
    expect(routes.length).toBeGreaterThan(15);
    expect(routes.filter((file) => lines(file) > 41)).toEqual([]);
  });
});
