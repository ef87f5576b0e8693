import { setImmediate } from "node:timers/promises";
import { afterEach, expect, test, vi } from "vitest";
import { inTurns } from "@/server/act/in-turns";

/** What takes long in a process that serves others. */

afterEach(() => vi.restoreAllMocks());

test("others have their turn whenever ten milliseconds of it are over, and it comes to its end", async () => {
  let at = 0;
  // Each look at the clock finds it four milliseconds later.
  vi.spyOn(performance, "now").mockImplementation(() => (at += 4));
  const order: string[] = [];
  let isOver = false;
  const others = (async () => {
    while (!isOver) {
      await setImmediate();
      order.push("other");
    }
  })();
  function* work() {
    for (let i = 0; i < 30; i++) {
      order.push("step");
      yield;
    }
    return "done";
  }
  expect(await inTurns(work())).toBe("done");
  isOver = true;
  await others;
  const atAStretch = order
    .join(" ")
    .split(/(?:other ?)+/)
    .map((steps) => steps.split("step").length - 1);
  expect(Math.max(...atAStretch)).toBe(3);
  expect(order.filter((one) => one === "step")).toHaveLength(30);
});

test("what goes wrong in it is told to who waits", async () => {
  function* work(): Generator<undefined, never> {
    yield;
    throw new Error("torn");
  }
  await expect(inTurns(work())).rejects.toThrow("torn");
});
