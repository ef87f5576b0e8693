import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, expect, test } from "vitest";
import { ParsePool } from ".";

const folder = mkdtempSync(join(tmpdir(), "tachyne-pool-"));
afterAll(() => rmSync(folder, { recursive: true }));

/** A thread that does with each message what the message says, and tells what it read. */
const file = join(folder, "worker.mjs");
writeFileSync(
  file,
  `import { parentPort } from "node:worker_threads";
   parentPort.on("message", ({ batch, raws, heavy, progress }) => {
     const next = (at, items) => {
       if (at === raws.length) return parentPort.postMessage({ batch, items });
       Atomics.store(progress, 0, at);
       Atomics.add(progress, 1, 1);
       const text = Buffer.from(raws[at]).toString();
       const over = () => next(at + 1, [...items, heavy.includes(at) ? "its headers" : text]);
       if (heavy.includes(at) || text === "plain") over();
       else if (text === "is kept waiting") setTimeout(over, 2500);
       else if (text === "works for ever") for (;;);
     };
     next(0, []);
   });`,
);

const read = async (ms: number, ...texts: string[]) => {
  const pool = new ParsePool(file, 1, { ms, megabytes: 64 });
  const items = await pool.parse(
    texts.map((text) => Buffer.from(text)),
    new Date(),
  );
  await pool.close();
  return items as unknown;
};

test("a message that is given nothing of the processor for a while is read whole", async () => {
  expect(await read(1000, "plain", "is kept waiting", "plain")).toEqual(["plain", "is kept waiting", "plain"]);
});

test("of one that works for ever only the headers are read, and the others whole", async () => {
  expect(await read(300, "plain", "works for ever", "plain", "works for ever")).toEqual([
    "plain",
    "its headers",
    "plain",
    "its headers",
  ]);
});

test("nor is one waited for that never ends without doing anything", async () => {
  expect(await read(200, "plain", "never ends", "plain")).toEqual(["plain", "its headers", "plain"]);
});
