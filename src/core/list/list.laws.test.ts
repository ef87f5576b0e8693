import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { columnsOf, textAt, type ColumnRow, type Columns } from "../columns";
import { fold } from "../narrow";
import {
  all,
  countSelected,
  EMPTY_LISTING,
  groupOf,
  GROUPINGS,
  inverted,
  isHead,
  isSelected,
  listingOf,
  matchingRows,
  NONE,
  ORDERS,
  selectedIds,
  Tally,
  toggled,
  withIds,
  type Grouping,
  type ListOrder,
  type Selection,
} from ".";
import { columnRow } from "../../../tests/fixtures/columns";

const arbRow = fc.record({
  thread: fc.integer({ min: 1, max: 4 }),
  dateMs: fc.integer({ min: 0, max: 5 * 86_400_000 }),
  size: fc.constantFrom(10, 5000, 20_000, 2_000_000),
  folder: fc.integer({ min: 1, max: 3 }),
  bits: fc.integer({ min: 0, max: 15 }),
  labels: fc.subarray([1, 2]),
  fromAddress: fc.constantFrom("a@x.example", "b@x.example", "A@x.example"),
  subject: fc.constantFrom("hut", "Re: hut", "beds", "Zürich"),
  list: fc.constantFrom("", "news.example"),
  marker: fc.constantFrom(0, 1),
  deferMs: fc.constantFrom(NaN, 5),
});
const arbColumns = fc.array(arbRow, { maxLength: 14 }).map((rows) => {
  const made = rows
    .map((row, i): ColumnRow => columnRow(i + 1, row))
    .sort((a, b) => a.dateMs - b.dateMs || a.id - b.id);
  return columnsOf(made);
});
const arbMask = (count: number) => fc.array(fc.constantFrom(0, 1), { minLength: count, maxLength: count });
const ZONE = "Europe/Zurich";
/** The same mailbox with nothing back from being deferred. */
const sunk = (columns: Columns): Columns => ({ ...columns, backMs: new Float64Array(columns.count).fill(NaN) });

describe("a listing", () => {
  const arb = arbColumns.chain((columns) =>
    fc.record({
      columns: fc.constant(columns),
      mask: arbMask(columns.count),
      order: fc.constantFrom<ListOrder>(...ORDERS),
      group: fc.constantFrom<Grouping>(...GROUPINGS),
      fold: fc.array(fc.nat({ max: 5 })),
    }),
  );

  test("shows each matching row once, beneath the head of its group, and finds it there", () => {
    fc.assert(
      fc.property(arb, ({ columns, mask, order, group }) => {
        const rows = matchingRows(Uint8Array.from(mask));
        const listing = listingOf(columns, rows, { order, group, folded: new Set() }, ZONE);
        const shown = [...listing.items].filter((item) => !isHead(item));
        expect([...shown].sort((a, b) => a - b)).toEqual([...rows]);
        expect(listing.messages).toBe(rows.length);
        let head = -1;
        listing.items.forEach((item, place) => {
          if (isHead(item)) head = groupOf(item);
          else {
            expect(listing.placeOf(item)).toBe(place);
            if (group !== "none") expect(listing.members(head)).toContain(item);
          }
        });
        for (const [n, one] of listing.groups.entries()) {
          const members = listing.members(n);
          expect(one.count).toBe(members.length);
          for (const row of members) expect(listing.groupIn(row)).toBe(n);
          expect(one.unread).toBe(members.filter((row) => (columns.bits[row]! & 1) === 0).length);
        }
        for (let row = 0; row < columns.count; row++)
          if (!rows.includes(row)) expect([listing.placeOf(row), listing.groupIn(row)]).toEqual([-1, -1]);
      }),
      { numRuns: 300 },
    );
  });

  test("a folded group shows its head alone", () => {
    fc.assert(
      fc.property(arb, ({ columns, mask, order, group, fold: which }) => {
        fc.pre(group !== "none");
        const rows = matchingRows(Uint8Array.from(mask));
        const open = listingOf(columns, rows, { order, group, folded: new Set() }, ZONE);
        const folded = new Set(which.flatMap((n) => open.groups[n]?.key ?? []));
        const listing = listingOf(columns, rows, { order, group, folded }, ZONE);
        const hidden = open.groups.filter((one) => folded.has(one.key)).reduce((sum, one) => sum + one.count, 0);
        expect(listing.items.length).toBe(open.items.length - hidden);
        expect(listing.messages).toBe(rows.length);
      }),
    );
  });

  test("what is back from being deferred stands on top, what is pinned where that is wanted; both in the list's order", () => {
    const arbRaised = fc
      .array(fc.record({ backMs: fc.constantFrom(NaN, NaN, 0, 5), bits: fc.constantFrom(0, 2, 3) }), { maxLength: 12 })
      .map((rows) => columnsOf(rows.map((row, i) => columnRow(i + 1, row))));
    fc.assert(
      fc.property(arbRaised, fc.constantFrom<ListOrder>(...ORDERS), fc.boolean(), (columns, order, pinned) => {
        const all = Int32Array.from({ length: columns.count }, (_, i) => i);
        const inOrder = [...listingOf(sunk(columns), all, { order, group: "none", folded: new Set() }, ZONE).items];
        const isTop = (row: number) =>
          !Number.isNaN(columns.backMs[row]) || (pinned && [2, 3].includes(columns.bits[row]!));
        const listing = listingOf(columns, all, { order, group: "none", folded: new Set(), pinned }, ZONE);
        expect([...listing.items]).toEqual([...inOrder.filter(isTop), ...inOrder.filter((row) => !isTop(row))]);
        listing.items.forEach((row, place) => expect(listing.placeOf(row)).toBe(place));
        expect(listing.placeOf(columns.count)).toBe(-1);
      }),
    );
  });

  test("gathered rows stand under one line where the first of them was, and unfold there", () => {
    fc.assert(
      fc.property(arb, fc.array(fc.nat({ max: 20 })), fc.boolean(), ({ columns, mask, order }, which, open) => {
        const rows = matchingRows(Uint8Array.from(mask));
        const plain = [...listingOf(columns, rows, { order, group: "none", folded: new Set() }, ZONE).items];
        const gone = plain.filter((row) => which.includes(row));
        const folded = new Set(open ? [] : ["run"]);
        const gathered = [{ key: "run", rows: gone }];
        const listing = listingOf(columns, rows, { order, group: "none", folded, gathered }, ZONE);
        const first = plain.indexOf(gone[0]!);
        const rest = plain.filter((row) => !gone.includes(row));
        const expected =
          gone.length === 0 ? plain : [...rest.slice(0, first), -1, ...(open ? gone : []), ...rest.slice(first)];
        expect([...listing.items]).toEqual(expected);
        expect(listing.groups).toMatchObject([{ key: "run", count: gone.length, folded: !open }]);
        expect(listing.groups[0]!.unread).toBe(gone.filter((row) => (columns.bits[row]! & 1) === 0).length);
        expect(listing.members(0)).toEqual(gone);
        for (const row of plain) expect(listing.groupIn(row)).toBe(gone.includes(row) ? 0 : -1);
        expect(listing.messages).toBe(rows.length);
        for (const row of rest) expect(listing.items[listing.placeOf(row)]).toBe(row);
      }),
    );
  });

  test("is in its order", () => {
    const keyOf: Record<
      Exclude<ListOrder, "last answer">,
      (c: ReturnType<typeof columnsOf>, row: number) => number | string
    > = {
      newest: (_, row) => -row,
      oldest: (_, row) => row,
      sender: (c, row) => fold(textAt(c, "sender", row)),
      subject: (c, row) => fold(textAt(c, "subject", row).replace(/^Re: /, "")),
      "comes back": (c, row) => (Number.isNaN(c.deferMs[row]) ? Infinity : c.deferMs[row]!),
      largest: (c, row) => -c.size[row]!,
      smallest: (c, row) => c.size[row]!,
      importance: (c, row) => -(c.size[row]! % 3),
      "likely junk": (c, row) => -(c.size[row]! % 3),
    };
    fc.assert(
      fc.property(arb, ({ columns, mask, order }) => {
        const rows = matchingRows(Uint8Array.from(mask));
        const { items } = listingOf(
          columns,
          rows,
          { order, group: "none", folded: new Set(), weightOf: (row) => columns.size[row]! % 3 },
          ZONE,
        );
        const key =
          order === "last answer"
            ? (row: number) =>
                -Math.max(
                  ...Array.from({ length: columns.count }, (_, other) =>
                    columns.thread[other] === columns.thread[row] ? columns.dateMs[other]! : 0,
                  ),
                )
            : (row: number) => keyOf[order](columns, row);
        // Among equals, texts leave the older first, as a conversation is read; the others the newer.
        const older = order === "sender" || order === "subject";
        for (let i = 1; i < items.length; i++) {
          const [before, after] = [items[i - 1]!, items[i]!];
          expect(key(before) <= key(after)).toBe(true);
          if (key(before) === key(after)) expect(before < after).toBe(older);
        }
      }),
      { numRuns: 300 },
    );
  });

  test("days begin where the person is; sizes come largest first", () => {
    const at = (iso: string, id: number, size = 10) => columnRow(id, { dateMs: Date.parse(iso), size });
    const columns = columnsOf([
      at("2026-11-23T22:30:00Z", 1),
      at("2026-11-23T23:30:00Z", 2),
      at("2026-11-24T10:00:00Z", 3, 50_000),
    ]);
    const rows = Int32Array.from([0, 1, 2]);
    const by = (group: Grouping) =>
      listingOf(columns, rows, { order: "oldest", group, folded: new Set() }, ZONE).groups.map((one) => one.count);
    expect(by("day")).toEqual([1, 2]);
    expect(by("size")).toEqual([1, 2]);
    expect(EMPTY_LISTING.members(0)).toEqual([]);
  });
});

describe("a selection", () => {
  type Act = { readonly what: "tick" | "on" | "off" | "invert" | "all" | "none"; readonly ids: readonly number[] };
  const act: fc.Arbitrary<Act> = fc.record({
    what: fc.constantFrom(
      "tick" as const,
      "on" as const,
      "off" as const,
      "invert" as const,
      "all" as const,
      "none" as const,
    ),
    ids: fc.subarray([1, 2, 3, 4, 5, 6]),
  });
  const LISTED = [1, 2, 3, 4, 5, 6];

  test("is the same set as one of plain ids, however it came about", () => {
    fc.assert(
      fc.property(fc.array(act, { maxLength: 12 }), (acts) => {
        let selection: Selection = NONE;
        let oracle = new Set<number>();
        for (const { what, ids } of acts) {
          const [first = 1] = ids;
          if (what === "tick") {
            selection = toggled(selection, first);
            if (!oracle.delete(first)) oracle.add(first);
          } else if (what === "on" || what === "off") {
            selection = withIds(selection, ids, what === "on");
            for (const id of ids)
              if (what === "on") oracle.add(id);
              else oracle.delete(id);
          } else if (what === "invert") {
            selection = inverted(selection, 6);
            oracle = new Set(LISTED.filter((id) => !oracle.has(id)));
          } else {
            selection = what === "all" ? all(6) : NONE;
            oracle = new Set(what === "all" ? LISTED : []);
          }
          expect([...selectedIds(selection, LISTED)]).toEqual(LISTED.filter((id) => oracle.has(id)));
          expect(countSelected(selection, LISTED)).toBe(oracle.size);
        }
      }),
      { numRuns: 500 },
    );
  });

  test("of everything leaves out what comes in later", () => {
    const selection = all(6);
    expect(isSelected(selection, 7)).toBe(false);
    expect(countSelected(selection, [...LISTED, 7])).toBe(6);
    expect(isSelected(withIds(selection, [3], false), 3)).toBe(false);
  });
});

test("counting in pieces is counting at once", () => {
  fc.assert(
    fc.property(arbColumns, fc.integer({ min: 1, max: 5 }), (columns, piece) => {
      const masks = new Map([[7, Uint8Array.from(columns.marker)]]);
      const now = 9 * 86_400_000;
      const whole = new Tally(columns, masks, now, 1).walk(Infinity)!;
      const pieces = new Tally(columns, masks, now, 1);
      let done = pieces.walk(piece);
      for (let i = 0; !done && i < 100; i++) done = pieces.walk(piece);
      expect(done).toEqual(whole);
      const inbox = [...columns.folder].filter((folder, row) => folder === 1 && Number.isNaN(columns.deferMs[row]!));
      expect(whole.folders.get(1)?.total ?? 0).toBe(inbox.length);
      expect(whole.batches.get(7)?.total).toBe([...columns.marker].filter((marker) => marker === 1).length);
      expect([...whole.folders.values()].reduce((sum, count) => sum + count.total, 0)).toBe(columns.count);
    }),
  );
});
