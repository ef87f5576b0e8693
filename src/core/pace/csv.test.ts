import { describe, expect, test } from "vitest";
import { dayText, readDay, writeCsv } from ".";

describe("a table of comma-separated values", () => {
  test("quotes what would end a field, and leaves numbers as they are", () => {
    expect(
      writeCsv(
        ["a", "b c"],
        [
          ["x, y", -3.5],
          ['say "no"', null],
          ["two\nlines", 0],
        ],
      ),
    ).toBe('a,b c\r\n"x, y",-3.5\r\n"say ""no""",\r\n"two\nlines",0\r\n');
  });
  test("no text of a stranger's is a formula", () => {
    for (const start of ["=", "+", "-", "@", "\t"]) expect(writeCsv([], [[`${start}A1`]])).toBe(`\r\n'${start}A1\r\n`);
    expect(writeCsv([], [["a=b"]])).toBe("\r\na=b\r\n");
  });
});

describe("a day", () => {
  test("is read as it is written, and no other text is one", () => {
    for (const day of [0, -1, 20_785, 20_786]) expect(readDay(dayText(day))).toBe(day);
    expect(dayText(20_785)).toBe("2026-11-28");
    expect(["2026-02-30", "2026-1-1", "2026-11-28T00:00", "", "tomorrow"].map(readDay)).toEqual(Array(5).fill(null));
  });
});
