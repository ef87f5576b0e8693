import fc from "fast-check";
import { expect, test } from "vitest";
import { otherEnds, wireSize } from ".";

const bytes = (text: string) => new Uint8Array(Buffer.from(text, "latin1"));
const text = (raw: Uint8Array) => Buffer.from(raw).toString("latin1");
const ends = (raw: string) => otherEnds(bytes(raw)).map(text);

test("a source has a form for each way to end lines that is not its own", () => {
  expect(ends("a\nb\n")).toEqual(["a\r\nb\r\n"]);
  expect(ends("a\r\nb\r\n")).toEqual(["a\nb\n"]);
  expect(ends("a\r\nb\nc")).toEqual(["a\nb\nc", "a\r\nb\r\nc"]);
  expect(ends("\n")).toEqual(["\r\n"]);
  expect(ends("\r\n")).toEqual(["\n"]);
  // No line ends here: a lone CR is none.
  for (const none of ["", "a", "a\rb", "a\r"]) expect(ends(none)).toEqual([]);
  expect(ends("a\r\r\nb")).toEqual(["a\r\nb"]);
});

test("any bytes: the forms are those of a search through them, and a size is that of the form of the wire", () => {
  const piece = fc.constantFrom("\r", "\n", "\r\n", "a", "\xff", "\0", "\n\n");
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 20 }), (pieces) => {
      const raw = pieces.join("");
      const lf = raw.replace(/\r\n/g, "\n");
      const crlf = raw.replace(/(?<!\r)\n/g, "\r\n");
      expect(ends(raw)).toEqual([lf, crlf].filter((form) => form !== raw));
      expect(wireSize(bytes(raw))).toBe(crlf.length);
    }),
    { numRuns: 400 },
  );
});

test("a piece of a larger buffer is read for itself", () => {
  const whole = bytes("x\na\nb\ny");
  const piece = whole.subarray(2, 5);
  expect(otherEnds(piece).map(text)).toEqual(["a\r\nb"]);
  expect(wireSize(piece)).toBe(4);
});
