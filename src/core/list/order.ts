import { textAt, type Columns } from "../columns";
import { baseSubject } from "../thread";
import { fold } from "../narrow";

export const ORDERS = [
  "newest",
  "oldest",
  "sender",
  "subject",
  "largest",
  "smallest",
  "last answer",
  "comes back",
  "importance",
  "likely junk",
] as const;
/**
 * "last answer": threads in which something was said last come first. "comes back": what is deferred for the
 * shortest time first, and what is not deferred last. "importance": as it is weighed from outside, see importance.ts.
 * "likely junk": as the person's own verdicts tell, weighed from outside too.
 */
export type ListOrder = (typeof ORDERS)[number];

/** Puts rows in the order of a number each of them has, keeping the order of equal ones. Small numbers only. */
function countingSort(rows: Int32Array, rankOf: (row: number) => number, ranks: number): Int32Array {
  const starts = new Int32Array(ranks + 1);
  for (const row of rows) starts[rankOf(row) + 1]!++;
  for (let i = 0; i < ranks; i++) starts[i + 1]! += starts[i]!;
  const out = new Int32Array(rows.length);
  for (const row of rows) out[starts[rankOf(row)]!++] = row;
  return out;
}

/**
 * Sorts by the texts that occur in the list: each different one is looked at once.
 * @param keyOf a row's text as it is compared
 */
function byText(
  columns: Columns,
  rows: Int32Array,
  name: "sender" | "subject",
  keyOf: (row: number) => string,
): Int32Array {
  const { index, ends, added } = columns.texts[name];
  const rank = new Int32Array(ends.length + added.length).fill(-1);
  const used: { n: number; key: string }[] = [];
  for (const row of rows) {
    const n = index[row]!;
    if (rank[n] !== -1) continue;
    rank[n] = 0;
    used.push({ n, key: keyOf(row) });
  }
  used.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0));
  // Equal keys get one rank, so that what is the same but for "Re:" stays in order of date.
  let last = -1;
  used.forEach(({ n, key }, i) => {
    if (i === 0 || key !== used[i - 1]!.key) last++;
    rank[n] = last;
  });
  return countingSort(rows, (row) => rank[index[row]!]!, last + 1);
}

function byNumber(rows: Int32Array, numberOf: (row: number) => number, falling: boolean): Int32Array {
  const sign = falling ? -1 : 1;
  // Two that are both without a number differ by nothing that could be told.
  return Int32Array.from(rows).sort((a, b) => sign * (numberOf(a) - numberOf(b) || 0) || b - a);
}

/** When something was last said in each thread of the list. */
function lastAnswers(columns: Columns, rows: Int32Array): Map<number, number> {
  const last = new Map<number, number>();
  for (const row of rows) last.set(columns.thread[row]!, 0);
  // Rows rise with their dates, so the last one seen is the newest.
  for (let row = 0; row < columns.count; row++) {
    const thread = columns.thread[row]!;
    if (last.has(thread)) last.set(thread, columns.dateMs[row]!);
  }
  return last;
}

/**
 * @param rows oldest first
 * @param weightOf how much a row weighs, for the orders that weigh
 */
export function ordered(
  columns: Columns,
  rows: Int32Array,
  order: ListOrder,
  weightOf: (row: number) => number = () => 0,
): Int32Array {
  switch (order) {
    case "oldest":
      return rows;
    case "newest":
      return Int32Array.from(rows).reverse();
    case "sender":
      return byText(columns, rows, "sender", (row) => fold(textAt(columns, "sender", row)));
    case "subject":
      // As it is written: "Re:" cannot be told once folding has taken its colon away.
      return byText(columns, rows, "subject", (row) => fold(baseSubject(textAt(columns, "subject", row)).base));
    case "largest":
    case "smallest":
      return byNumber(rows, (row) => columns.size[row]!, order === "largest");
    case "comes back":
      return byNumber(rows, (row) => (columns.deferMs[row]! >= 0 ? columns.deferMs[row]! : Infinity), false);
    case "importance":
    case "likely junk": {
      // Each is weighed once: comparing would do it again and again.
      const weights = new Map<number, number>();
      for (const row of rows) weights.set(row, weightOf(row));
      return byNumber(rows, (row) => weights.get(row)!, true);
    }
    case "last answer": {
      const last = lastAnswers(columns, rows);
      return byNumber(rows, (row) => last.get(columns.thread[row]!)!, true);
    }
  }
}
