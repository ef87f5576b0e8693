import { expect, test } from "vitest";
import { readInTurn } from "./read-in-turn";

/** A server whose answers come when they are let go, each with what was there when it was asked. */
function serving() {
  let there = 0;
  let shown = -1;
  const answers: (() => void)[] = [];
  const failures: (() => void)[] = [];
  const read = async () => {
    const now = there;
    await new Promise<void>((resolve, reject) => {
      answers.push(resolve);
      failures.push(() => reject(new Error("away")));
    });
    shown = now;
  };
  return { read, answers, failures, write: () => ++there, shown: () => shown };
}

const turn = () => new Promise((resolve) => setTimeout(resolve));

test("what is asked for while a reading is under way is read after it, once for all who ask", async () => {
  const { read, answers, write, shown } = serving();
  const ask = readInTurn(read);
  const first = ask();
  await turn();
  write();
  const [second, third] = [ask(), ask()];
  await turn();
  // The second has not been asked for: its answer cannot overtake the first.
  expect(answers).toHaveLength(1);
  answers[0]!();
  await first;
  expect(shown()).toBe(0);
  await turn();
  expect(answers).toHaveLength(2);
  answers[1]!();
  await Promise.all([second, third]);
  expect(shown()).toBe(1);
});

test("a reading that fails tells who asked for it, and the next one is made", async () => {
  const { read, answers, failures, write, shown } = serving();
  const ask = readInTurn(read);
  const first = ask();
  await turn();
  write();
  const second = ask();
  failures[0]!();
  await expect(first).rejects.toThrow("away");
  await turn();
  answers[1]!();
  await second;
  expect(shown()).toBe(1);
});

test("until it can begin, all who ask share one reading, which sees what was written meanwhile", async () => {
  const { read, answers, write, shown } = serving();
  let open = () => {};
  const ask = readInTurn(read, () => new Promise<void>((resolve) => (open = resolve)));
  const asked = [ask(), ask()];
  await turn();
  write();
  asked.push(ask());
  expect(answers).toHaveLength(0);
  open();
  await turn();
  expect(answers).toHaveLength(1);
  answers[0]!();
  await Promise.all(asked);
  expect(shown()).toBe(1);
});
