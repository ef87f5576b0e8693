import { textAt, type Columns } from "../columns";
import { addDays, instantOf, wallIn } from "../when";

export const GROUPINGS = ["none", "sender", "list", "thread", "day", "folder", "label", "size"] as const;
export type Grouping = (typeof GROUPINGS)[number];

export interface Group {
  /** What its messages have in common; holds when messages come and go. */
  readonly key: string;
  /** One of its rows, from which its name can be told. */
  readonly row: number;
  readonly count: number;
  readonly unread: number;
  /** Whether only its head is shown. */
  readonly folded: boolean;
}

/** IANA name; days begin in it. */
export type Zone = string;

/** Upper ends of the sizes told apart, in bytes. */
export const SIZE_STEPS: readonly number[] = [10 * 1024, 100 * 1024, 1024 ** 2, 10 * 1024 ** 2, Infinity];

/** Remembers what a number was turned into: rows have few different ones, and turning them is dear. */
function remembering(keyOf: (row: number) => string, numberOf: (row: number) => number): (row: number) => string {
  const known = new Map<number, string>();
  return (row) => {
    const number = numberOf(row);
    let key = known.get(number);
    if (key === undefined) known.set(number, (key = keyOf(row)));
    return key;
  };
}

/** The first instant of the day a time is in; neighbours in the list mostly fall into the same day. */
function dayKey(columns: Columns, zone: Zone): (row: number) => string {
  let [from, to, key] = [0, 0, ""];
  return (row) => {
    const ms = columns.dateMs[row]!;
    if (ms >= from && ms < to) return key;
    const wall = { ...wallIn(zone, new Date(ms)), hour: 0, minute: 0 };
    from = instantOf(zone, wall).getTime();
    to = instantOf(zone, addDays(wall, 1)).getTime();
    key = String(from);
    return key;
  };
}

function keyOf(columns: Columns, grouping: Exclude<Grouping, "none">, zone: Zone): (row: number) => string {
  const { texts } = columns;
  switch (grouping) {
    case "sender":
      return remembering(
        (row) => textAt(columns, "fromAddress", row).toLowerCase(),
        (row) => texts.sender.index[row]!,
      );
    case "list":
      return remembering(
        (row) => textAt(columns, "list", row).toLowerCase(),
        (row) => texts.list.index[row]!,
      );
    case "thread":
      return remembering(
        (row) => String(columns.thread[row]),
        (row) => columns.thread[row]!,
      );
    case "day":
      return dayKey(columns, zone);
    case "folder":
      return remembering(
        (row) => String(columns.folder[row]),
        (row) => columns.folder[row]!,
      );
    case "label":
      return remembering(
        (row) => [...columns.labelSets[columns.labelSet[row]!]!].sort((a, b) => a - b).join(),
        (row) => columns.labelSet[row]!,
      );
    case "size":
      return (row) => String(SIZE_STEPS.findIndex((most) => columns.size[row]! < most));
  }
}

/**
 * Parts rows into groups. Days come as the list does and sizes largest first; of everything else the largest
 * group comes first, since that is where one key does most.
 * @returns for each row of the list, in its order, the number of its group
 */
export function groupRows(
  columns: Columns,
  rows: Int32Array,
  grouping: Exclude<Grouping, "none">,
  zone: Zone,
): { groups: Omit<Group, "folded">[]; of: Int32Array } {
  const key = keyOf(columns, grouping, zone);
  const numbers = new Map<string, number>();
  const groups: { key: string; row: number; count: number; unread: number; number: number }[] = [];
  const of = new Int32Array(rows.length);
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i]!;
    const text = key(row);
    let number = numbers.get(text);
    if (number === undefined) {
      number = groups.push({ key: text, row, count: 0, unread: 0, number: groups.length }) - 1;
      numbers.set(text, number);
    }
    const group = groups[number]!;
    group.count++;
    if ((columns.bits[row]! & 1) === 0) group.unread++;
    of[i] = number;
  }
  if (grouping === "size") groups.sort((a, b) => Number(b.key) - Number(a.key));
  else if (grouping !== "day") groups.sort((a, b) => b.count - a.count || a.number - b.number);
  const place = new Int32Array(groups.length);
  groups.forEach((group, i) => (place[group.number] = i));
  for (let i = 0; i < of.length; i++) of[i] = place[of[i]!]!;
  return { groups: groups.map(({ number: _, ...group }) => group), of };
}
