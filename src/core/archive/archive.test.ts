import fc from "fast-check";
import { expect, test } from "vitest";
import { directory, stateWith } from "../../../tests/fixtures/macro";
import { folderId, labelId, markerId } from "../id";
import { fileStem, lineOf, readLines, stateOf } from ".";

const time = fc.constantFrom(null, "2026-11-24T09:00:00.000Z", "2027-01-02T00:00:00.000Z");
const text = fc.constantFrom(null, "Ring back", 'odd "text"\nin two lines  ');
const arbState = fc
  .record({
    read: fc.boolean(),
    pin: fc.boolean(),
    owed: fc.boolean(),
    flag: fc.option(fc.record({ start: time, due: time, note: text })),
    marker: fc.constantFrom(null, markerId(1), markerId(2)),
    labels: fc.constantFrom([], [labelId(1)], [labelId(1), labelId(2)]),
    note: text,
    defer: time,
    back: time,
    await: time,
    hand: time,
  })
  .map((more) => stateWith({ ...more, folder: folderId(5) }));
const SOURCE = { hash: "ab".repeat(32), answered: true };

test("what was decided is the same after it was written and read, as lines of a file", () => {
  fc.assert(
    fc.property(fc.array(arbState, { maxLength: 4 }), (states) => {
      const file = states.map((state) => `${JSON.stringify(lineOf(state, SOURCE, directory))}\n`).join("");
      expect(readLines(file).map((line) => stateOf(line, folderId(5), directory))).toEqual(states);
    }),
  );
});

test("names mean what they mean where it is read: other numbers, other spelling, and what is not there is left out", () => {
  const state = stateWith({ labels: [labelId(1), labelId(2)], marker: markerId(2) });
  const line = lineOf(state, SOURCE, directory);
  expect(line).toMatchObject({ labels: ["Winter season", "Invoice"], marker: "W", answered: true });
  expect(line).not.toHaveProperty("folder");
  const other = {
    folders: [],
    labels: [{ id: labelId(9), name: "winter SEASON", colour: "slate" as const }],
    markers: [{ id: markerId(4), letter: "W", colour: "plum" as const, meaning: "", used: true }],
  };
  expect(stateOf(line, folderId(3), other)).toMatchObject({ folder: 3, labels: [9], marker: 4 });
  expect(stateOf(line, folderId(3), { ...other, markers: [] }).marker).toBeNull();
});

test("a line that is damaged is named by its number", () => {
  const good = JSON.stringify(lineOf(stateWith(), SOURCE, directory));
  expect(readLines(`${good}\n\n${good}`)).toHaveLength(2);
  expect(() => readLines(`${good}\n{"hash":`)).toThrow("Line 2");
  expect(() => readLines(good.replace(/ab/, "zz"))).toThrow("Line 1");
});

test("names of files are plain, and none is another's", () => {
  expect(fileStem("Bookings/Groups", 7)).toBe("mail/007-Bookings-Groups");
  expect(fileStem("../../Zürich: Büro?", 12)).toBe("mail/012-Zu-rich-Bu-ro");
  expect(fileStem("予約", 3)).toBe("mail/003");
  expect(fileStem("x".repeat(300), 1)).toHaveLength(69);
});
