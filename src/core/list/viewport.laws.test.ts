import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { scrolledTo, TALLEST_PX, viewportOf } from ".";

const arbSizes = fc.record({
  rows: fc.oneof(fc.integer({ min: 1, max: 2000 }), fc.integer({ min: 300_000, max: 3_000_000 })),
  rowPx: fc.constantFrom(28, 52),
  heightPx: fc.integer({ min: 100, max: 1200 }),
});
/** Where the scroll bar can be: from the top to where the last pixel is in sight. */
const arbScrolling = arbSizes.chain((sizes) =>
  fc.double({ min: 0, max: 1, noNaN: true }).map((share) => ({
    ...sizes,
    scrolledPx: share * Math.max(0, Math.min(sizes.rows * sizes.rowPx, TALLEST_PX) - sizes.heightPx),
  })),
);

describe("what is drawn of a long list", () => {
  test("covers what is in sight, with some rows beyond, and no more than that", () => {
    fc.assert(
      fc.property(arbScrolling, (scrolling) => {
        const { rows, rowPx, heightPx, scrolledPx } = scrolling;
        const { first, last, drawnPx, base, blockPx, shiftPx } = viewportOf(scrolling);
        const placePx = (row: number) => row * rowPx + shiftPx;
        // What is in sight on the screen goes from where the scroll bar is, as far as there are rows.
        expect(first === 0 || placePx(first) <= scrolledPx).toBe(true);
        expect(last === rows || placePx(last) >= scrolledPx + heightPx).toBe(true);
        expect(last - first).toBeLessThanOrEqual(Math.ceil(heightPx / rowPx) + 26);
        expect(last).toBeLessThanOrEqual(rows);
        expect(drawnPx).toBe(Math.min(rows * rowPx, 16_000_000));
        expect([base % 500, blockPx]).toEqual([0, placePx(base)]);
        expect(first - base).toBeGreaterThanOrEqual(0);
        expect(first - base).toBeLessThan(500);
      }),
    );
  });

  test("the end of the scroll bar is the end of the list, however long", () => {
    fc.assert(
      fc.property(arbSizes, (sizes) => {
        const drawn = Math.min(sizes.rows * sizes.rowPx, TALLEST_PX);
        const scrolledPx = Math.max(0, drawn - sizes.heightPx);
        const { last, shiftPx } = viewportOf({ ...sizes, scrolledPx });
        expect(last).toBe(sizes.rows);
        const endPx = sizes.rows * sizes.rowPx + shiftPx;
        expect(Math.abs(endPx - Math.max(drawn, sizes.rows * sizes.rowPx + shiftPx))).toBeLessThan(1);
        if (drawn === TALLEST_PX) expect(Math.abs(endPx - drawn)).toBeLessThan(1);
      }),
    );
  });

  test("six rows before and after are drawn too", () => {
    const { first, last } = viewportOf({ rows: 1000, rowPx: 28, heightPx: 280, scrolledPx: 2800 });
    expect([first, last]).toEqual([94, 116]);
    expect(viewportOf({ rows: 1000, rowPx: 28, heightPx: 280, scrolledPx: 28 * 600 }).base).toBe(500);
  });
});

describe("bringing a row into sight", () => {
  test("puts it there whole, with its neighbours; one in sight moves nothing", () => {
    fc.assert(
      fc.property(arbScrolling, fc.double({ min: 0, max: 1, noNaN: true }), (scrolling, share) => {
        const { rows, rowPx, heightPx, scrolledPx } = scrolling;
        const row = Math.min(rows - 1, Math.floor(share * rows));
        const to = scrolledTo(row, scrolling);
        const { shiftPx } = viewportOf({ ...scrolling, scrolledPx: to });
        const placePx = row * rowPx + shiftPx;
        // Half a pixel of the scroll bar may be several of a list of millions.
        const slack = 1e-6 * rows * rowPx + 1e-3;
        expect(placePx).toBeGreaterThanOrEqual(to - slack);
        expect(placePx + rowPx).toBeLessThanOrEqual(to + heightPx + slack);
        expect(Math.abs(scrolledTo(row, { ...scrolling, scrolledPx: to }) - to)).toBeLessThan(slack);
        const before = viewportOf(scrolling);
        const wasPx = row * rowPx + before.shiftPx;
        if (wasPx - 3 * rowPx >= scrolledPx && wasPx + 4 * rowPx <= scrolledPx + heightPx) expect(to).toBe(scrolledPx);
      }),
    );
  });
  test("moves by no more than it must", () => {
    const scrolling = { rows: 1000, rowPx: 28, heightPx: 280, scrolledPx: 2800 };
    expect(scrolledTo(102, scrolling)).toBe(2772);
    expect(scrolledTo(103, scrolling)).toBe(2800);
    expect(scrolledTo(106, scrolling)).toBe(2800);
    expect(scrolledTo(107, scrolling)).toBe(2828);
    expect(scrolledTo(999, scrolling)).toBe(27_720);
    expect(scrolledTo(998, scrolling)).toBe(27_720);
    expect(scrolledTo(0, scrolling)).toBe(0);
    // Where hardly a row fits, it stands in the middle of what there is.
    expect(scrolledTo(5, { rows: 10, rowPx: 50, heightPx: 60, scrolledPx: 0 })).toBe(245);
  });
});
