import { expect, test } from "vitest";
import { Writes } from "./writes";

/** Writes of which the test says when each is answered. */
function made() {
  const writes = new Writes();
  const sent: string[] = [];
  const answers = new Map<string, { readonly ok: () => void; readonly fail: () => void }>();
  const add = (name: string) =>
    writes.add(
      () =>
        new Promise<string>((resolve, reject) => {
          sent.push(name);
          answers.set(name, { ok: () => resolve(name), fail: () => reject(new Error(name)) });
        }),
    );
  return {
    writes,
    sent,
    add,
    answer: (name: string) => answers.get(name)!.ok(),
    fail: (name: string) => answers.get(name)!.fail(),
  };
}
const turn = () => new Promise((resolve) => setTimeout(resolve));

test("each is sent once the one before it was answered, also where that failed", async () => {
  const { sent, add, answer, fail } = made();
  const [first, second, third] = [add("a"), add("b"), add("c")];
  await turn();
  expect(sent).toEqual(["a"]);
  fail("a");
  await expect(first).rejects.toThrow("a");
  await turn();
  expect(sent).toEqual(["a", "b"]);
  answer("b");
  expect(await second).toBe("b");
  await turn();
  answer("c");
  expect(await third).toBe("c");
});

test("one that cannot be sent at all is said to whom it belongs, and keeps no other back", async () => {
  const { writes, sent, add } = made();
  const broken = writes.add(() => {
    throw new Error("no number");
  });
  void add("a");
  await expect(broken).rejects.toThrow("no number");
  await turn();
  expect(sent).toEqual(["a"]);
});

test("where the window goes, what waits is sent in its order, and so is what is added after; back again, they wait", async () => {
  const { writes, sent, add, answer } = made();
  const all = [add("a"), add("b"), add("c")];
  await turn();
  writes.leave();
  // At once: nothing that comes later is done in a window that goes.
  expect(sent).toEqual(["a", "b", "c"]);
  all.push(add("d"));
  expect(sent).toEqual(["a", "b", "c", "d"]);
  writes.comeBack();
  const last = add("e");
  for (const name of ["d", "c", "b"]) answer(name);
  await turn();
  // Behind all of them, whichever was answered first; and none was sent twice.
  expect(sent).toEqual(["a", "b", "c", "d"]);
  answer("a");
  expect(await Promise.all(all)).toEqual(["a", "b", "c", "d"]);
  await turn();
  expect(sent).toEqual(["a", "b", "c", "d", "e"]);
  answer("e");
  await last;
});

test("what is read between writes is read behind all of them, and is old where another was made meanwhile", async () => {
  const { writes, add, answer } = made();
  let through = 0;
  writes.whenThrough = () => through++;
  const [first, second] = [add("a"), add("b")];
  let reads = 0;
  const read = async () => ++reads;
  const between = writes.between(read);
  await turn();
  answer("a");
  await first;
  await turn();
  expect([reads, through]).toEqual([0, 0]);
  answer("b");
  await second;
  expect(await between).toBe(1);
  expect(through).toBe(1);
  const late = writes.between(async () => {
    const written = add("c");
    await turn();
    answer("c");
    await written;
    return "old";
  });
  expect(await late).toBeNull();
});
