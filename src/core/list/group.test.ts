import { describe, expect, test } from "vitest";
import { columnRow, sentColumns } from "../../../tests/fixtures/columns";
import type { ColumnRow } from "../columns";
import { EMPTY_LISTING, groupOf, isHead, listingOf, Tally, type Grouping } from ".";

/** Groups as a person reads them: how many, how many unread, and of which messages. */
function groups(rows: ColumnRow[], group: Grouping, order: "newest" | "oldest" = "newest") {
  const columns = sentColumns(rows);
  const all = Int32Array.from(rows, (_, i) => i);
  const listing = listingOf(columns, all, { order, group, folded: new Set() }, "Europe/Zurich");
  return listing.groups.map((one, i) => [one.count, one.unread, listing.members(i).map((row) => columns.id[row])]);
}
const at = (iso: string) => ({ dateMs: Date.parse(iso) });

describe("groups", () => {
  test("by size: each step's end belongs to the next one, the largest first", () => {
    const sizes = [10_239, 10_240, 102_399, 102_400, 1_048_575, 1_048_576, 10_485_759, 10_485_760];
    const rows = sizes.map((size, i) => columnRow(i + 1, { size }));
    expect(groups(rows, "size", "oldest").map(([, , ids]) => ids)).toEqual([[8], [6, 7], [4, 5], [2, 3], [1]]);
  });
  test("by day in the person's zone, in the order of the list, over the change of clocks", () => {
    const rows = [
      columnRow(1, at("2026-10-24T21:59:59Z")),
      columnRow(2, at("2026-10-24T22:00:00Z")),
      columnRow(3, at("2026-10-25T22:59:59Z")),
      columnRow(4, at("2026-10-25T23:00:00Z")),
    ];
    expect(groups(rows, "day", "oldest").map(([, , ids]) => ids)).toEqual([[1], [2, 3], [4]]);
    expect(groups(rows, "day").map(([, , ids]) => ids)).toEqual([[4], [3, 2], [1]]);
  });
  test("by sender and list whatever the case, the largest group first, equal ones as they come", () => {
    const from = (fromAddress: string) => ({ fromAddress });
    const rows = [
      columnRow(1, from("a@x.example")),
      columnRow(2, from("B@x.example")),
      columnRow(3, { ...from("b@X.example"), bits: 1 }),
      columnRow(4, from("c@x.example")),
    ];
    expect(groups(rows, "sender", "oldest")).toEqual([
      [2, 1, [2, 3]],
      [1, 1, [1]],
      [1, 1, [4]],
    ]);
    const lists = [columnRow(1, { list: "Huts" }), columnRow(2, { list: "" }), columnRow(3, { list: "huts" })];
    expect(groups(lists, "list", "oldest").map(([, , ids]) => ids)).toEqual([[1, 3], [2]]);
  });
  test("by thread, folder and set of labels, in whatever order those stand", () => {
    const rows = [
      columnRow(1, { thread: 7, folder: 1, labels: [1, 2] }),
      columnRow(2, { thread: 8, folder: 2, labels: [] }),
      columnRow(3, { thread: 7, folder: 2, labels: [2, 1] }),
    ];
    const of = (group: Grouping) => groups(rows, group, "oldest").map(([, , ids]) => ids);
    expect([of("thread"), of("folder"), of("label")]).toEqual([
      [[1, 3], [2]],
      [[2, 3], [1]],
      [[1, 3], [2]],
    ]);
  });
  test("a folded one is its head alone, and none at all is the plain list", () => {
    const rows = [columnRow(1, { thread: 7 }), columnRow(2, { thread: 7 }), columnRow(3, { thread: 8 })];
    const columns = sentColumns(rows);
    const listing = listingOf(
      columns,
      Int32Array.of(0, 1, 2),
      { order: "oldest", group: "thread", folded: new Set(["7"]) },
      "UTC",
    );
    expect([...listing.items].map((item) => (isHead(item) ? `head ${groupOf(item)}` : columns.id[item]))).toEqual([
      "head 0",
      "head 1",
      3,
    ]);
    expect(listing.groups[0]).toMatchObject({ count: 2, folded: true });
    expect(groups(rows, "none")).toEqual([]);
    expect(EMPTY_LISTING.items).toHaveLength(0);
  });
});

test("old is what is older than seven days, to the millisecond", () => {
  const now = Date.parse("2026-11-25T12:00:00Z");
  const age = (ms: number, id: number) => columnRow(id, { dateMs: now - ms, folder: 3 });
  const week = 604_800_000;
  const columns = sentColumns([age(week - 1, 1), age(week, 2), age(week + 1, 3)].reverse());
  expect(new Tally(columns, new Map(), now, 1).walk(3)!.folders.get(3)).toEqual({
    total: 3,
    unread: 3,
    old: 1,
    oldestMs: now - week - 1,
  });
});

test("what is counted for a nested label is counted once for each it is nested in; markers are counted together", () => {
  const rows = [
    columnRow(1, { labels: [2], marker: 1 }),
    columnRow(2, { labels: [2, 3], marker: 2, bits: 1 }),
    columnRow(3, { labels: [1, 2], marker: 0 }),
    columnRow(4, { labels: [] }),
  ];
  const above = new Map([
    [2, [1]],
    [3, [1, 9]],
  ]);
  const tallied = new Tally(sentColumns(rows), new Map(), 0, 1, above).walk(10)!;
  const counts = [...tallied.labels]
    .sort(([a], [b]) => a - b)
    .map(([label, { total, unread }]) => [label, total, unread]);
  expect(counts).toEqual([
    [1, 3, 2],
    [2, 3, 2],
    [3, 1, 0],
    [9, 1, 0],
  ]);
  expect(tallied.marked).toEqual({ total: 2, unread: 1, old: 0, oldestMs: 1000 });
});
