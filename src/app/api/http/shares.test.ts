import { describe, expect, test } from "vitest";
import { personId } from "@/core/id";
import { Shares } from "./shares";

const [ONE, OTHER] = [personId(1), personId(2)];
const never = new AbortController().signal;

/** Work that ends when it is told to, and says that it began. */
function works() {
  const begun: string[] = [];
  const ends = new Map<string, (fails?: boolean) => void>();
  const work = (name: string) => () =>
    new Promise<string>((resolve, reject) => {
      begun.push(name);
      ends.set(name, (fails) => (fails ? reject(new Error(name)) : resolve(name)));
    });
  const end = async (name: string, fails = false) => {
    ends.get(name)!(fails);
    await new Promise((resolve) => setImmediate(resolve));
  };
  return { begun, work, end };
}

describe("what one person asks for", () => {
  test("goes two at a time, in order, and does not keep another's waiting", async () => {
    const shares = new Shares(2, 10);
    const { begun, work, end } = works();
    const asked = ["a", "b", "c", "d"].map((name) => shares.take(ONE, never, work(name)));
    const other = shares.take(OTHER, never, work("x"));
    expect(begun).toEqual(["a", "b", "x"]);
    await end("b");
    expect(begun).toEqual(["a", "b", "x", "c"]);
    await end("a");
    expect(begun).toEqual(["a", "b", "x", "c", "d"]);
    for (const name of ["c", "d", "x"]) await end(name);
    expect(await Promise.all([...asked, other])).toEqual(["a", "b", "c", "d", "x"]);
    // All of it is over: as at the beginning, two go at once.
    const again = ["e", "f", "g"].map((name) => shares.take(ONE, never, work(name)));
    expect(begun.slice(5)).toEqual(["e", "f"]);
    for (const name of ["e", "f", "g"]) await end(name);
    await Promise.all(again);
  });

  test("gives its place on where it fails", async () => {
    const shares = new Shares(1, 10);
    const { begun, work, end } = works();
    const failing = shares.take(ONE, never, work("a"));
    const next = shares.take(ONE, never, work("b"));
    const said = expect(failing).rejects.toThrow("a");
    await end("a", true);
    await said;
    expect(begun).toEqual(["a", "b"]);
    await end("b");
    expect(await next).toBe("b");
  });

  test("is refused where too much of it waits, and taken again once less does", async () => {
    const shares = new Shares(1, 2);
    const { begun, work, end } = works();
    const asked = ["a", "b", "c"].map((name) => shares.take(ONE, never, work(name)));
    await expect(shares.take(ONE, never, work("d"))).rejects.toMatchObject({ status: 429, more: { after: 1 } });
    await end("a");
    const later = shares.take(ONE, never, work("e"));
    for (const name of ["b", "c", "e"]) await end(name);
    await Promise.all([...asked, later]);
    expect(begun).toEqual(["a", "b", "c", "e"]);
  });

  test("is not done where nobody waits for it any more", async () => {
    const shares = new Shares(1, 10);
    const { begun, work, end } = works();
    const gone = new AbortController();
    const first = shares.take(ONE, never, work("a"));
    const left = shares.take(ONE, gone.signal, work("b"));
    const last = shares.take(ONE, never, work("c"));
    const said = expect(left).rejects.toMatchObject({ status: 408 });
    gone.abort();
    await said;
    await end("a");
    await end("c");
    await Promise.all([first, last]);
    expect(begun).toEqual(["a", "c"]);
    const already = shares.take(ONE, never, work("d"));
    await expect(shares.take(ONE, gone.signal, work("e"))).rejects.toMatchObject({ status: 408 });
    await end("d");
    expect(await already).toBe("d");
  });
});
