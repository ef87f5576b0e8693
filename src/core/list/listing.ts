import type { Columns } from "../columns";
import { groupRows, type Group, type Grouping, type Zone } from "./group";
import { ordered, type ListOrder } from "./order";

/** How a list is shown. */
export interface Arrangement {
  readonly order: ListOrder;
  readonly group: Grouping;
  /** Keys of groups whose messages are not shown. */
  readonly folded: ReadonlySet<string>;
}

/**
 * What a list shows, in order: rows of the columns as their numbers, and heads of groups as -1 minus the
 * group's number.
 */
export interface Listing {
  readonly items: Int32Array;
  readonly groups: readonly Group[];
  /** How many messages, also those of folded groups. */
  readonly messages: number;
  /** Where a row is shown; -1 when it is not. */
  readonly placeOf: (row: number) => number;
  /** The rows of a group, by its number, in the list's order. */
  readonly members: (group: number) => number[];
}

export const isHead = (item: number | undefined): boolean => item !== undefined && item < 0;
export const headOf = (group: number): number => -1 - group;
export const groupOf = (item: number): number => -1 - item;

const NO_GROUPS = { groups: [], members: () => [] };
export const EMPTY_LISTING: Listing = { ...NO_GROUPS, items: new Int32Array(), messages: 0, placeOf: () => -1 };

/**
 * The rows that match, oldest first.
 * @param mask 1 for each row that matches; changed here
 * @param keeps rows that are listed although they do not match
 * @param leaves rows that are not listed although they match
 */
export function matchingRows(
  mask: Uint8Array,
  keeps: Iterable<number> = [],
  leaves: Iterable<number> = [],
): Int32Array {
  for (const row of keeps) mask[row] = 1;
  for (const row of leaves) mask[row] = 0;
  let count = 0;
  for (let row = 0; row < mask.length; row++) count += mask[row]!;
  const out = new Int32Array(count);
  for (let row = 0, at = 0; at < count; row++) if (mask[row] === 1) out[at++] = row;
  return out;
}

/** Where a row stands among rows that rise, or fall; -1 for one that is not among them. */
export function searched(rows: Int32Array, rising: boolean): (row: number) => number {
  return (row) => {
    let low = 0;
    let high = rows.length - 1;
    while (low <= high) {
      const middle = (low + high) >> 1;
      const found = rows[middle]!;
      if (found === row) return middle;
      if (found < row === rising) low = middle + 1;
      else high = middle - 1;
    }
    return -1;
  };
}

/** The same for rows in any order: a table made when it is first asked for. */
function tabled(items: Int32Array, count: number): (row: number) => number {
  let places: Int32Array | null = null;
  return (row) => {
    if (!places) {
      places = new Int32Array(count).fill(-1);
      for (let place = 0; place < items.length; place++) if (items[place]! >= 0) places[items[place]!] = place;
    }
    return places[row] ?? -1;
  };
}

/** @param rows those to be listed, oldest first */
export function listingOf(columns: Columns, rows: Int32Array, arrangement: Arrangement, zone: Zone): Listing {
  const { order, group, folded } = arrangement;
  const sorted = ordered(columns, rows, order);
  if (group === "none") {
    const byDate = order === "oldest" || order === "newest";
    const placeOf = byDate ? searched(sorted, order === "oldest") : tabled(sorted, columns.count);
    return { ...NO_GROUPS, items: sorted, messages: sorted.length, placeOf };
  }
  const { groups, of } = groupRows(columns, sorted, group, zone);
  const shown = groups.map((one) => ({ ...one, folded: folded.has(one.key) }));
  // Each group's messages are put behind its head, in the order they have: one walk, no comparing.
  const starts = new Int32Array(groups.length);
  let length = 0;
  shown.forEach((one, i) => {
    starts[i] = length + 1;
    length += 1 + (one.folded ? 0 : one.count);
  });
  const items = new Int32Array(length);
  shown.forEach((_, i) => (items[starts[i]! - 1] = headOf(i)));
  for (let i = 0; i < sorted.length; i++) {
    const at = of[i]!;
    if (!shown[at]!.folded) items[starts[at]!++] = sorted[i]!;
  }
  const members = (group: number) => [...sorted.filter((_, i) => of[i] === group)];
  return { items, groups: shown, messages: sorted.length, placeOf: tabled(items, columns.count), members };
}
