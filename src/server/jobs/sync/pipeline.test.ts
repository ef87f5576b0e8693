import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { FIRST_ASKED_BYTES, nextAskedBytes, pieces } from "./pipeline";

const head = (uid: number, size: number) => ({ uid, size, flags: [], messageId: null });

/** Bytes a second from a telephone's to a cable's, and the way there and back. */
const line = fc.record({
  rate: fc.integer({ min: 30_000, max: 120_000_000 }),
  wayMs: fc.integer({ min: 0, max: 400 }),
});

describe("what is asked for at a time", () => {
  test("comes to be what a line brings while somebody waits, and keeps the line busy", () => {
    fc.assert(
      fc.property(line, ({ rate, wayMs }) => {
        const tookMs = (bytes: number) => wayMs + (bytes / rate) * 1000;
        let most = FIRST_ASKED_BYTES;
        for (let n = 0; n < 40; n++) most = nextAskedBytes(most, most, tookMs(most));
        const isLeast = most === 64 << 10;
        expect(tookMs(most)).toBeLessThan(isLeast ? Infinity : 700);
        // Of a line that is good enough, no more than its way is lost.
        const isMost = most === 8 << 20;
        if (!isMost && wayMs < 60) expect(tookMs(most)).toBeGreaterThan(500);
      }),
    );
  });

  test("is never more than four times what it was, nor less than one letter's worth", () => {
    fc.assert(
      fc.property(fc.nat(20_000_000), fc.nat(100_000), (bytes, ms) => {
        const next = nextAskedBytes(1 << 20, bytes, ms);
        expect(next).toBeLessThanOrEqual(4 << 20);
        expect(next).toBeGreaterThanOrEqual(64 << 10);
      }),
    );
  });

  test.each([
    ["few and quick: nothing is learned of the line", 1_000_000, 2000, 50, 1_000_000],
    ["few and slow: the line is slow", 1_000_000, 200_000, 1200, 100_000],
    ["all of it in half the time: twice as much", 1_000_000, 1_000_000, 300, 2_000_000],
  ])("%s", (_, most, bytes, ms, next) => {
    expect(nextAskedBytes(most, bytes, ms)).toBe(next);
  });
});

describe("pieces of what is new", () => {
  const sizes = (all: Iterable<readonly { size: number }[]>) => [...all].map((piece) => piece.length);
  test.each([
    ["the first is small where somebody waits", 1200, 1000, true, [50, 500, 500, 150]],
    ["none is larger than so many", 1200, 1000, false, [500, 500, 200]],
    ["none is larger than so many bytes", 40, 1 << 20, false, [16, 16, 8]],
    ["one that is larger by itself comes alone", 3, 40 << 20, false, [1, 1, 1]],
    ["nothing is no piece", 0, 1, true, []],
  ])("%s", (_, count, size, isFirst, expected) => {
    const heads = Array.from({ length: count }, (_, uid) => head(uid + 1, size));
    expect(sizes(pieces(heads, isFirst))).toEqual(expected);
    expect([...pieces(heads, isFirst)].flat()).toEqual(heads);
  });
});
