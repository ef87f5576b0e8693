import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { MboxSplitter, mboxEntry, type MboxItem } from ".";

const bytes = (text: string) => Uint8Array.from(Buffer.from(text, "latin1"));
const text = (raw: Uint8Array) => Buffer.from(raw).toString("latin1");
function split(data: Uint8Array, piece = data.length || 1): { items: MboxItem[]; splitter: MboxSplitter } {
  const splitter = new MboxSplitter();
  const items: MboxItem[] = [];
  for (let at = 0; at < data.length; at += piece) items.push(...splitter.push(data.subarray(at, at + piece)));
  items.push(...splitter.finish());
  return { items, splitter };
}
const FROM = "From ines@post.example Tue Nov 24 10:00:00 2026\n";
const raws = (source: string) => split(bytes(source)).items.map((item) => text(item.raw));

test("lines ended by CR LF: the empty line before the next message belongs to neither", () => {
  const from = FROM.replace("\n", "\r\n");
  const first = "Subject: a\r\n\r\none\r\n\r\ntwo\r\n";
  const last = "Subject: b\r\n\r\nx\r\n";
  expect(raws(`${from}${first}\r\n${from}${last}`)).toEqual([first, last]);
  // Without the empty line it is no separator, whatever it looks like.
  expect(raws(`${from}${first}${from}${last}`)).toHaveLength(1);
});

describe("the four ways of quoting", () => {
  test("o: one > before From", () => {
    expect(raws(`${FROM}Subject: a\n\n>From here on\nend\n\n${FROM}Subject: b\n\nx\n`)).toEqual([
      "Subject: a\n\nFrom here on\nend\n",
      "Subject: b\n\nx\n",
    ]);
  });
  test("rd: one > more than there was", () => {
    expect(raws(`${FROM}Subject: a\n\n>From one\n>>From two\n>>>From three\n> From not\n\n`)).toEqual([
      "Subject: a\n\nFrom one\n>From two\n>>From three\n> From not\n",
    ]);
  });
  test("cl: quoted, with a length", () => {
    const body = ">From quoted\n\nFromage\n";
    expect(raws(`${FROM}Subject: a\nContent-Length: ${body.length}\n\n${body}\n${FROM}Subject: b\n\n`)[0]).toBe(
      `Subject: a\nContent-Length: ${body.length}\n\nFrom quoted\n\nFromage\n`,
    );
  });
  test("cl2: not quoted, the length alone tells", () => {
    const body = `before\n\n${FROM}not a separator\n>From stays\n`;
    expect(raws(`${FROM}Subject: a\nContent-Length: ${body.length}\n\n${body}\n${FROM}Subject: b\n\ny\n`)).toEqual([
      `Subject: a\nContent-Length: ${body.length}\n\n${body}`,
      "Subject: b\n\ny\n",
    ]);
  });
  test("a length that is a lie is not believed", () => {
    for (const lie of [0, 3, 5000, 99_999_999_999])
      expect(raws(`${FROM}Subject: a\nContent-Length: ${lie}\n\nbody of a\n\n${FROM}Subject: b\n\nx\n`)).toHaveLength(
        2,
      );
  });
});

describe("what is and is not a separator", () => {
  test("prose that begins with From, after an empty line too", () => {
    expect(raws(`${FROM}Subject: a\n\nhello\n\nFrom there we walked until 2026 and on\nFrom me\n`)).toHaveLength(1);
  });
  test("an empty message, and one without a body", () => {
    expect(raws(`${FROM}\n${FROM}Subject: only\n\n${FROM}Subject: b\n\nx\n`)).toEqual([
      "",
      "Subject: only\n",
      "Subject: b\n\nx\n",
    ]);
  });
  test("what stands before the first message is listed", () => {
    const { items, splitter } = split(bytes(`rubbish\n${FROM}Subject: a\n\nx\n`));
    expect(items).toHaveLength(1);
    expect(splitter.problems).toEqual([{ offset: 0, reason: "before-first-message", bytes: 8 }]);
  });
});

const line = fc.constantFrom(
  "hello",
  "From the hut",
  ">From x",
  ">>From y",
  "",
  "From ines@post.example Tue Nov 24 10:00:00 2026",
  "é>",
  "Content-Length: 3",
);
const message = fc
  .tuple(fc.constantFrom("\n", "\r\n"), fc.array(line, { maxLength: 8 }))
  .map(([end, lines]) => `Subject: x${end}${end}${lines.join(end)}${end}`);

describe("laws", () => {
  test("what is written reads back byte for byte, however the stream is cut", () => {
    fc.assert(
      fc.property(
        fc.array(message, { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 1, max: 700 }),
        (messages, piece) => {
          const file = Buffer.concat(
            messages.map((m) => mboxEntry(bytes(m), "a@post.example", new Date("2026-11-24T10:00:00Z"))),
          );
          const { items } = split(file, piece);
          expect(items.map((item) => text(item.raw))).toEqual(messages);
          // Each place where a message ends is one from which an import can go on.
          for (const [i, item] of items.slice(0, -1).entries()) {
            const rest = new MboxSplitter(item.end);
            const later = [...rest.push(file.subarray(item.end)), ...rest.finish()];
            expect(later.map((l) => text(l.raw))).toEqual(messages.slice(i + 1));
          }
        },
      ),
      { numRuns: 400 },
    );
  });
});
