/**
 * Which rows of a long list are drawn, and where. Browsers draw nothing as tall as a million rows: past
 * TALLEST_PX one pixel of the scroll bar stands for several of the list.
 */
export const TALLEST_PX = 16_000_000;
/** Rows drawn beyond the edges, so that a fast scroll meets drawn ones. */
const BEYOND = 6;
/** Rows stand in a block that moves with the scroll bar; within it they keep their places for so many. */
const ROWS_IN_BLOCK = 500;

export interface Scrolling {
  readonly rows: number;
  readonly rowPx: number;
  /** Of what is in sight. */
  readonly heightPx: number;
  /** Where the scroll bar is. */
  readonly scrolledPx: number;
}

export interface Viewport {
  /** How tall the scroll bar takes the list to be. */
  readonly drawnPx: number;
  /** The rows drawn: from (included) to (left out). */
  readonly first: number;
  readonly last: number;
  /** The row the block begins with, and where it stands. */
  readonly base: number;
  readonly blockPx: number;
  /** What is added to a row's place in the list for its place on the screen. */
  readonly shiftPx: number;
}

/** How many pixels of the list one pixel of the scroll bar stands for. */
function scaleOf({ rows, rowPx, heightPx }: Omit<Scrolling, "scrolledPx">): {
  wholePx: number;
  drawnPx: number;
  scale: number;
} {
  const wholePx = rows * rowPx;
  const drawnPx = Math.min(wholePx, TALLEST_PX);
  return { wholePx, drawnPx, scale: drawnPx < wholePx ? (wholePx - heightPx) / (drawnPx - heightPx) : 1 };
}

export function viewportOf(scrolling: Scrolling): Viewport {
  const { rows, rowPx, heightPx, scrolledPx } = scrolling;
  const { drawnPx, scale } = scaleOf(scrolling);
  const topPx = scrolledPx * scale;
  const shiftPx = scrolledPx - topPx;
  const first = Math.max(0, Math.floor(topPx / rowPx) - BEYOND);
  const last = Math.min(rows, Math.ceil((topPx + heightPx) / rowPx) + BEYOND);
  const base = Math.floor(first / ROWS_IN_BLOCK) * ROWS_IN_BLOCK;
  return { drawnPx, first, last, base, blockPx: base * rowPx + shiftPx, shiftPx };
}

/** Rows in sight before and after the focused one, so that what comes next is seen. */
const BESIDE = 3;

/**
 * Where the scroll bar has to be for a row to be in sight with some rows beside it, as near to where it is as can be.
 * @param row its place in the list
 */
export function scrolledTo(row: number, scrolling: Scrolling): number {
  const { rows, rowPx, heightPx, scrolledPx } = scrolling;
  const { scale } = scaleOf(scrolling);
  const fromPx = row * rowPx;
  const marginPx = Math.min(BESIDE * rowPx, Math.max(0, (heightPx - rowPx) / 2));
  const shownPx = scrolledPx * scale;
  if (fromPx - marginPx < shownPx) return Math.max(0, (fromPx - marginPx) / scale);
  // Past the last row there is nothing to keep in sight.
  const endPx = Math.min(fromPx + rowPx + marginPx, rows * rowPx);
  return endPx > shownPx + heightPx ? (endPx - heightPx) / scale : scrolledPx;
}
