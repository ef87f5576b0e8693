import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { MboxSplitter, mboxEntry, type MboxItem } from ".";
import { MOST_MESSAGE_BYTES } from "./mbox";

const bytes = (text: string) => Uint8Array.from(Buffer.from(text, "latin1"));
const text = (raw: Uint8Array) => Buffer.from(raw).toString("latin1");
const SEPARATOR = "From ines@post.example Tue Nov 24 10:00:00 2026";
const OTHER = "From - Wed Nov 25 9:05 +0100 2026";

/** What a file holds, as somebody would cut it by hand: line by line, with a look at the line before. */
function byHand(lines: readonly string[], lineEnd: string) {
  const isSeparator = (line: string) => line === SEPARATOR || line === OTHER;
  const starts: number[] = [];
  const offsets: number[] = [0];
  for (const line of lines) offsets.push(offsets.at(-1)! + line.length + lineEnd.length);
  lines.forEach((line, i) => {
    if (!isSeparator(line)) return;
    // The first one needs no empty line before it, nor does one right behind another.
    if (starts.length === 0 || lines[i - 1] === "" || starts.at(-1) === i - 1) starts.push(i);
  });
  const messages = starts.map((start, n) => {
    const next = starts[n + 1] ?? lines.length;
    const own = lines.slice(start + 1, next);
    if (own.at(-1) === "") own.pop();
    const head = own.indexOf("");
    const unquoted = own.map((line, i) => (i > head && /^>+From /.test(line) ? line.slice(1) : line));
    return {
      offset: offsets[start]!,
      end: offsets[next]!,
      raw: unquoted.map((line) => line + lineEnd).join(""),
    };
  });
  const before = offsets[starts[0] ?? lines.length]!;
  const isLost = lines.slice(0, starts[0] ?? lines.length).some((line) => line !== "");
  return { messages, lost: isLost ? before : 0 };
}

const line = fc.oneof(
  { weight: 3, arbitrary: fc.constantFrom(SEPARATOR, OTHER, "", "") },
  fc.constantFrom(
    "Subject: beds",
    "From the hut one sees until 10:00",
    ">From x",
    ">>From y",
    "> From z",
    ">",
    "é",
    "x".repeat(700),
  ),
);

function split(data: Uint8Array, piece: number) {
  const splitter = new MboxSplitter();
  const items: MboxItem[] = [];
  for (let at = 0; at < data.length; at += piece) items.push(...splitter.push(data.subarray(at, at + piece)));
  items.push(...splitter.finish());
  return { items, problems: splitter.problems };
}

test("files without lengths are cut where one would by hand, however they come in", () => {
  fc.assert(
    fc.property(
      fc.array(line, { minLength: 1, maxLength: 14 }),
      fc.constantFrom("\n", "\r\n"),
      fc.integer({ min: 1, max: 900 }),
      (lines, lineEnd, piece) => {
        const file = bytes(lines.map((one) => one + lineEnd).join(""));
        const expected = byHand(lines, lineEnd);
        const { items, problems } = split(file, piece);
        expect(items.map(({ offset, end, raw }) => ({ offset, end, raw: text(raw) }))).toEqual(expected.messages);
        expect(problems).toEqual(
          expected.lost === 0 ? [] : [{ offset: 0, reason: "before-first-message", bytes: expected.lost }],
        );
      },
    ),
    { numRuns: 1500 },
  );
});

describe("a length", () => {
  const withLength = (body: string, lineEnd: string, length = body.length) =>
    ["Subject: a", `Content-Length: ${length}`, "", body].join(lineEnd);
  const raws = (file: string, piece: number) => split(bytes(file), piece).items.map(({ raw }) => text(raw));
  const body = `one\n\n${SEPARATOR}\nstill one\n`;

  test.each([
    ["an empty line behind it", "\n", "\n"],
    ["an empty line with CR LF behind it", "\r\n", "\r\n"],
    ["nothing behind it", "\n", ""],
  ])("with %s", (_, lineEnd, gap) => {
    const first = withLength(body, lineEnd);
    const file = `${SEPARATOR}${lineEnd}${first}${gap}${SEPARATOR}${lineEnd}Subject: b${lineEnd}${lineEnd}x${lineEnd}`;
    for (const piece of [1, 7, 100, file.length])
      expect(raws(file, piece)).toEqual([first, `Subject: b${lineEnd}${lineEnd}x${lineEnd}`]);
  });

  test("up to the end of the file, with and without an empty line there", () => {
    for (const gap of ["", "\n"]) expect(raws(`${SEPARATOR}\n${withLength(body, "\n")}${gap}`, 9)).toHaveLength(1);
  });

  test("that counts the empty line behind it is believed; one that ends anywhere else is not", () => {
    const file = (off: number) =>
      `${SEPARATOR}\n${withLength(body, "\n", body.length + off)}\n${SEPARATOR}\nSubject: b\n\nx\n`;
    expect(raws(file(1), 50)).toEqual([`${withLength(body, "\n", body.length + 1)}\n`, "Subject: b\n\nx\n"]);
    // What looks like a separator in the body is one then.
    for (const off of [-body.length, -2, -1, 2, 3, 1000]) expect(raws(file(off), 50)).toHaveLength(3);
  });

  test("in a header that is folded, named otherwise, or in the body is none", () => {
    for (const head of ["X-Content-Length: 3", "Content-Length: 3 bytes", "Subject: a\n\nContent-Length: 3"])
      expect(raws(`${SEPARATOR}\n${head}\n\nbody\n\n${SEPARATOR}\n\nx\n`, 11)).toHaveLength(2);
  });
});

test("a message that is too large is told of with its place and size; those around it come in", () => {
  const small = (name: string) => `${SEPARATOR}\nSubject: ${name}\n\nbeds\n\n`;
  const before = bytes(small("a"));
  const large = Buffer.concat([
    bytes(`${SEPARATOR}\nSubject: b\n\n`),
    Buffer.alloc(MOST_MESSAGE_BYTES + 9000, "line\n"),
  ]);
  const behind = bytes(`\n\n${small("c")}`);
  const splitter = new MboxSplitter();
  const items: MboxItem[] = [];
  const file = Buffer.concat([before, large, behind]);
  const piece = 48 << 20;
  for (let at = 0; at < file.length; at += piece) items.push(...splitter.push(file.subarray(at, at + piece)));
  items.push(...splitter.finish());
  expect(items.map(({ raw }) => text(raw))).toEqual(["Subject: a\n\nbeds\n", "Subject: c\n\nbeds\n"]);
  expect(items.map(({ offset, end }) => [offset, end])).toEqual([
    [0, before.length],
    [file.length - small("c").length, file.length],
  ]);
  // The last empty line is nobody's.
  expect(splitter.problems).toEqual([
    { offset: before.length, reason: "too-large", bytes: large.length + behind.length - small("c").length - 1 },
  ]);
});

describe("written", () => {
  const at = new Date("2026-03-04T05:06:07Z");
  const entry = (raw: string, sender: string) => text(mboxEntry(bytes(raw), sender, at));

  test("behind a line with the sender and the time, with an empty line after it", () => {
    expect(entry("Subject: a\n\nx\n", "ines@post.example")).toBe(
      "From ines@post.example Wed Mar 04 05:06:07 2026\nSubject: a\n\nx\n\n",
    );
    expect(entry("Subject: a\n\nx", "ines@post.example")).toMatch(/\n\nx\n\n$/);
  });

  test("a sender that would break the line is not in it", () => {
    for (const sender of ["", "ines berg@post.example", "ines\n@post.example", "bärg@post.example"])
      expect(entry("Subject: a\n\nx\n", sender)).toMatch(/^From MAILER-DAEMON Wed Mar 04 05:06:07 2026\nSubject/);
  });

  test("what begins with From is quoted in the body, and only there", () => {
    expect(entry("From x\nSubject: a\n\nFrom y\n>From z\n", "a@post.example")).toBe(
      "From a@post.example Wed Mar 04 05:06:07 2026\nFrom x\nSubject: a\n\n>From y\n>>From z\n\n",
    );
  });
});
