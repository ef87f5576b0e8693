import { STATE_BIT, type Columns } from "../columns";
import { groupRows, type Group, type Grouping, type Zone } from "./group";
import { ordered, type ListOrder } from "./order";

/** How a list is shown. */
export interface Arrangement {
  readonly order: ListOrder;
  readonly group: Grouping;
  /** Keys of groups whose messages are not shown. */
  readonly folded: ReadonlySet<string>;
  /** Whether pinned messages stand on top; those that are back from being deferred do in any case. */
  readonly pinned?: boolean;
  /** How much a row weighs, for the orders that weigh. */
  readonly weightOf?: ((row: number) => number) | undefined;
  /** Messages that stand together under one line, where the first of them was, in a list without groups. */
  readonly gathered?: readonly Gathered[];
}

/** Rows that are shown as one line with a key of its own, until it is unfolded. */
export interface Gathered {
  readonly key: string;
  readonly rows: Iterable<number>;
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
  /** The number of the group a row is in, also of a folded one; -1 where it is in none. */
  readonly groupIn: (row: number) => number;
}

export const isHead = (item: number | undefined): boolean => item !== undefined && item < 0;
export const headOf = (group: number): number => -1 - group;
export const groupOf = (item: number): number => -1 - item;

const NO_GROUPS = { groups: [], members: () => [], groupIn: () => -1 };
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

/** The same where so many rows stand above the others, both parts in the same order. */
function placeBelow(rows: Int32Array, top: number, rising: boolean): (row: number) => number {
  if (top === 0) return searched(rows, rising);
  const [above, below] = [searched(rows.subarray(0, top), rising), searched(rows.subarray(top), rising)];
  return (row) => {
    const first = above(row);
    if (first >= 0) return first;
    const place = below(row);
    return place < 0 ? -1 : top + place;
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

/** Whether a row stands above the others. */
function isRaised(columns: Columns, pinned: boolean): (row: number) => boolean {
  const { backMs, bits } = columns;
  // A time is a number that equals itself.
  return (row) => backMs[row]! === backMs[row]! || (pinned && (bits[row]! & STATE_BIT.pin) !== 0);
}

/** The same rows in the same order, those that stand above the others first. @returns how many they are */
function raise(rows: Int32Array, raised: (row: number) => boolean): { sorted: Int32Array; top: number } {
  let top = 0;
  for (const row of rows) if (raised(row)) top++;
  if (top === 0) return { sorted: rows, top };
  const sorted = new Int32Array(rows.length);
  let [at, below] = [0, top];
  for (const row of rows) sorted[raised(row) ? at++ : below++] = row;
  return { sorted, top };
}

/** A plain list in which some rows stand under lines of their own. */
function withLines(columns: Columns, sorted: Int32Array, arrangement: Arrangement): Listing {
  const { gathered = [], folded } = arrangement;
  const line = new Int32Array(columns.count);
  gathered.forEach(({ rows }, i) => {
    for (const row of rows) line[row] = i + 1;
  });
  const members: number[][] = gathered.map(() => []);
  for (const row of sorted) if (line[row] !== 0) members[line[row]! - 1]!.push(row);
  const groups = gathered.map(({ key }, i): Group => ({
    key,
    row: members[i]![0] ?? -1,
    count: members[i]!.length,
    unread: members[i]!.filter((row) => (columns.bits[row]! & STATE_BIT.read) === 0).length,
    folded: folded.has(key),
  }));
  const items: number[] = [];
  const begun = new Set<number>();
  for (const row of sorted) {
    const at = line[row]! - 1;
    if (at < 0) items.push(row);
    else if (!begun.has(at)) {
      begun.add(at);
      items.push(headOf(at));
      if (!groups[at]!.folded) items.push(...members[at]!);
    }
  }
  const all = Int32Array.from(items);
  return {
    items: all,
    groups,
    messages: sorted.length,
    placeOf: tabled(all, columns.count),
    members: (group) => members[group]!,
    groupIn: (row) => (line[row] ?? 0) - 1,
  };
}

/** @param rows those to be listed, oldest first */
export function listingOf(columns: Columns, rows: Int32Array, arrangement: Arrangement, zone: Zone): Listing {
  const { order, group, folded, pinned = false, gathered = [] } = arrangement;
  const inOrder = ordered(columns, rows, order, arrangement.weightOf);
  if (group === "none") {
    const { sorted, top } = raise(inOrder, isRaised(columns, pinned));
    if (gathered.length > 0) return withLines(columns, sorted, arrangement);
    const byDate = order === "oldest" || order === "newest";
    const placeOf = byDate ? placeBelow(sorted, top, order === "oldest") : tabled(sorted, columns.count);
    return { ...NO_GROUPS, items: sorted, messages: sorted.length, placeOf };
  }
  const sorted = inOrder;
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
  let table: Int32Array | null = null;
  const groupIn = (row: number) => {
    if (!table) {
      table = new Int32Array(columns.count).fill(-1);
      for (let i = 0; i < sorted.length; i++) table[sorted[i]!] = of[i]!;
    }
    return table[row] ?? -1;
  };
  return { items, groups: shown, messages: sorted.length, placeOf: tabled(items, columns.count), members, groupIn };
}
