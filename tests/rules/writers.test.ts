import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { expect, test } from "vitest";

/**
 * Who may write what a change writes: the store, whose part for new messages brings in what nobody can have changed yet
 * (CONTRIBUTING.md says why). Anything else goes through the door, so that it is in the ledger and comes back.
 */
const DOOR = /^src\/server\/store\//;
const ALSO: Readonly<Record<string, readonly string[]>> = {
  message_state: [],
  message: ["src/server/search/words.ts"],
  content: [],
  message_words: ["src/server/search/words.ts", "src/server/jobs/keeper.ts"],
  task: [],
  contact: [],
  blocked: [],
  ledger: [],
};

const ROOT = new URL("../..", import.meta.url).pathname;
const files = execFileSync("git", ["ls-files", "-co", "--exclude-standard", "src", "demo"], {
  cwd: ROOT,
  encoding: "utf8",
})
  .split("\n")
  .filter((file) => /\.tsx?$/.test(file) && !/\.test\.ts$/.test(file));

/** Tables that SQL in the file writes, as far as they are named in it; words of prose are no SQL. */
function writtenIn(source: string): string[] {
  const found = source.matchAll(
    /(?:\binsert into|\bdelete from|\bcopy|\bupdate) (\w+)(?= (?:\w{1,2} )?(?:set\b|\(|where\b|using\b|from stdin)| \$\{)/gi,
  );
  return [...found].map((match) => match[1]!.toLowerCase());
}

test("messages, things and the ledger are written through the door alone", () => {
  const offences = files.flatMap((file) =>
    DOOR.test(file)
      ? []
      : writtenIn(readFileSync(`${ROOT}/${file}`, "utf8"))
          .filter((table) => table in ALSO && !ALSO[table]!.includes(file))
          .map((table) => `${file} writes ${table}`),
  );
  expect(offences).toEqual([]);
});

test("and the rule can fail: it sees what intake and the store write", () => {
  const seen = (file: string) => new Set(writtenIn(readFileSync(`${ROOT}/${file}`, "utf8")));
  expect([...seen("src/server/store/new-messages.ts")]).toEqual(
    expect.arrayContaining(["content", "message", "message_state"]),
  );
  expect([...seen("src/server/jobs/take-in.ts")]).toContain("sender");
  expect([...seen("src/server/store/things.ts")]).toEqual(expect.arrayContaining(["task", "contact", "blocked"]));
  expect([...seen("src/server/store/write.ts")]).toEqual(["message_state"]);
});
