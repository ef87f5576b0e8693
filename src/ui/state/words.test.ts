import { expect, test } from "vitest";
import { KnownWords } from "./words";

const scree = { kind: "words", where: "any", needle: " scree" } as const;
const both = { kind: "and", parts: [scree, { kind: "words", where: "body", needle: " spring" }] } as const;

/** A server that answers when it is let. */
function serving() {
  const asked: { needle: string; answer: (...ids: number[]) => void; fail: () => void }[] = [];
  const heard: string[] = [];
  const words = new KnownWords(
    (needle) =>
      new Promise((resolve, reject) => {
        asked.push({ needle, answer: (...ids) => resolve(new Set(ids)), fail: () => reject(new Error("away")) });
      }),
  );
  const ask = (test: Parameters<typeof words.ask>[0]) =>
    words.ask(
      test,
      () => heard.push("done"),
      (error) => heard.push((error as Error).message),
    );
  return { words, asked, heard, ask };
}
const turn = () => new Promise((resolve) => setTimeout(resolve));

test("each needle is asked for once, and waited for until it is known", async () => {
  const { words, asked, heard, ask } = serving();
  ask(both);
  ask(scree);
  expect(asked.map(({ needle }) => needle)).toEqual([" scree", " spring"]);
  asked[0]!.answer(3, 5);
  await turn();
  expect([words.waitsFor(scree), words.waitsFor(both)]).toEqual([false, true]);
  expect([...words.of(" scree")!]).toEqual([3, 5]);
  asked[1]!.answer();
  await turn();
  expect([words.waitsFor(both), heard]).toEqual([false, ["done", "done"]]);
  ask(both);
  expect(asked).toHaveLength(2);
});

test("an answer from before more words were known takes no newer one's place, whichever comes first", async () => {
  for (const order of [
    [0, 1],
    [1, 0],
  ]) {
    const { words, asked, heard, ask } = serving();
    ask(scree);
    words.forget();
    ask(scree);
    for (const n of order) {
      asked[n]!.answer(n);
      await turn();
    }
    expect([...words.of(" scree")!]).toEqual([1]);
    expect(heard).toEqual(["done"]);
  }
});

test("a failure is told to who waits, and what is asked again after it is asked anew", async () => {
  const { words, asked, heard, ask } = serving();
  ask(scree);
  asked[0]!.fail();
  await turn();
  expect(heard).toEqual(["away"]);
  ask(scree);
  words.forget();
  asked[1]!.fail();
  await turn();
  expect(heard).toEqual(["away"]);
  ask(scree);
  expect(asked).toHaveLength(3);
});

test("of many needles the latest are kept", async () => {
  const { words, asked, ask } = serving();
  for (let n = 0; n < 41; n++) {
    ask({ ...scree, needle: ` ${n}` });
    asked[n]!.answer(n);
    await turn();
  }
  expect(words.of(" 0")).toBeUndefined();
  expect([...words.of(" 1")!]).toEqual([1]);
});
