import fc from "fast-check";
import { simpleParser, type AddressObject } from "mailparser";
import { describe, expect, test } from "vitest";
import { docOfText, type Doc } from "@/core/letter";
import { readParts } from "@/core/mail";
import { writeLetter, type Letter } from "@/server/letters";

/** Read by another library than the one that wrote it. */
const people = (field: AddressObject | AddressObject[] | undefined) =>
  [field ?? []].flat().flatMap(({ value }) => value.map(({ name, address }) => ({ name, address })));

const word = fc.constantFrom(
  "hut",
  "Größe",
  "日本語",
  "x".repeat(80),
  "a=b",
  "From",
  ".",
  "ключ",
  "👣",
  "=?utf-8?Q?x?=",
);
const line = fc.array(word, { minLength: 1, maxLength: 12 }).map((words) => words.join(" "));
const name = fc.constantFrom(
  "",
  "Ines Marlow",
  "Ünal, Kâzım",
  'The "warden"',
  "山田",
  "A\r\nBcc: x@evil.example",
  "long ".repeat(30).trim(),
);
const person = fc.record({
  name,
  address: fc.constantFrom("ines@larch.example", "bo+x@tarn.example", "a.b@c-d.example"),
});
const file = fc.record({
  id: fc.constantFrom(7, 8, 9),
  name: fc.constantFrom("plan.pdf", "Übersicht März.txt", "a/b\\c.bin", "x\r\ny.png", "…"),
  type: fc.constantFrom("application/pdf", "text/plain", "image/png", "not a type", "application/octet-stream"),
  data: fc.uint8Array({ maxLength: 3000 }),
  cid: fc.constant(null),
});
const letter: fc.Arbitrary<Letter> = fc.record({
  sender: person,
  to: fc.array(person, { minLength: 1, maxLength: 4 }),
  cc: fc.array(person, { maxLength: 2 }),
  subject: fc.oneof(line, fc.constant("x\r\nBcc: y@evil.example")),
  body: fc.array(line, { minLength: 1, maxLength: 5 }).map((lines) => docOfText(lines.join("\n"))),
  plain: fc.boolean(),
  messageId: fc.constant("<a1.b2@huts.example>"),
  inReplyTo: fc.constantFrom(null, "<q@post.example>"),
  references: fc.constantFrom([], ["<p@post.example>", "<q@post.example>"]),
  date: fc.constant(new Date("2026-11-26T08:00:00Z")),
  files: fc.array(file, { maxLength: 3 }),
});

const tidy = (text: string): string => text.replace(/[\r\n]+/g, " ");
const HEADERS =
  /^(from|to|cc|subject|message-id|in-reply-to|references|date|mime-version|content-type|content-transfer-encoding|content-disposition)$/;

describe("a letter's source", () => {
  test("is read back as it was written: people, subject, threading, words, and files byte for byte", async () => {
    await fc.assert(
      fc.asyncProperty(letter, async (one) => {
        const raw = Buffer.from(await writeLetter(one));
        const read = await simpleParser(raw);
        const tidied = (list: Letter["to"]) => list.map((p) => ({ ...p, name: tidy(p.name) }));
        expect(people(read.from)).toEqual(tidied([one.sender]));
        expect(people(read.to)).toEqual(tidied(one.to));
        expect(people(read.cc)).toEqual(tidied(one.cc));
        expect(read.subject).toBe(tidy(one.subject));
        expect([read.messageId, read.inReplyTo]).toEqual([one.messageId, one.inReplyTo ?? undefined]);
        expect([read.references ?? []].flat()).toEqual(one.references);
        expect(read.date).toEqual(one.date);
        expect(read.attachments.map(({ content }) => content.toString("hex"))).toEqual(
          one.files.map(({ data }) => Buffer.from(data).toString("hex")),
        );
        const said = one.body.content.map((block) =>
          block.type === "paragraph" && block.content?.[0]?.type === "text" ? block.content[0].text : "",
        );
        expect(read.text?.replace(/\s+/g, "")).toContain(said.join("").replace(/\s+/g, "").slice(0, 40));
        // No field makes a header of its own, and none tells more than is needed.
        expect([...read.headers.keys()].filter((key) => !HEADERS.test(key))).toEqual([]);
        expect(raw.toString("latin1")).not.toMatch(/^bcc:/im);
        for (const text of raw.toString("latin1").split("\n")) {
          expect(text.length).toBeLessThanOrEqual(999);
          if (text !== "") expect(text.endsWith("\r")).toBe(true);
        }
      }),
      { numRuns: 150 },
    );
  });

  test("the same letter gives the same bytes", async () => {
    await fc.assert(
      fc.asyncProperty(letter, async (one) => {
        const [first, second] = [await writeLetter(one), await writeLetter(one)];
        expect(Buffer.from(second).equals(first)).toBe(true);
      }),
      { numRuns: 30 },
    );
  });

  test("rich text goes with its plain words first, and pictures in it by their content id", async () => {
    const body: Doc = {
      type: "doc",
      content: [
        {
          type: "paragraph",
          content: [
            { type: "text", text: "Look", marks: [{ type: "strong" }] },
            { type: "image", attrs: { file: 7, alt: "map" } },
          ],
        },
      ],
    };
    const one = { ...fc.sample(letter, { numRuns: 1, seed: 3 })[0]!, body };
    const picture = { id: 7, name: "map.png", type: "image/png", data: new Uint8Array([1, 2, 3]), cid: null };
    const rich = await simpleParser(Buffer.from(await writeLetter({ ...one, plain: false, files: [picture] })));
    expect(rich.html).toContain("<b>Look</b>");
    // The parser puts pictures it finds by their id into the text.
    expect(rich.html).toContain("data:image/png;base64,AQID");
    expect(rich.text).toContain("Look");
    expect(rich.attachments[0]).toMatchObject({ related: true, contentType: "image/png" });
    const raw = Buffer.from(await writeLetter({ ...one, plain: false, files: [picture] })).toString("latin1");
    expect(raw.indexOf("text/plain")).toBeLessThan(raw.indexOf("text/html"));
    expect(raw).toContain("format=flowed");
    const plain = await simpleParser(Buffer.from(await writeLetter({ ...one, plain: true, files: [picture] })));
    expect(plain.html).toBe(false);
    expect(plain.attachments[0]!.related).toBeFalsy();
    expect(plain.attachments[0]!.contentDisposition).toBe("attachment");
  });

  test("a message that goes along stays as it is", async () => {
    const inner = "From: a@b.example\r\nSubject: inside\r\n\r\nBest, Ünal\r\n";
    const files = [
      { id: 1, name: "message.eml", type: "message/rfc822", data: new Uint8Array(Buffer.from(inner)), cid: null },
    ];
    const one = { ...fc.sample(letter, { numRuns: 1, seed: 5 })[0]!, files };
    const raw = Buffer.from(await writeLetter(one));
    const { email } = await readParts(raw);
    expect(email.attachments.map(({ mimeType }) => mimeType)).toEqual(["message/rfc822"]);
    expect(raw.toString("utf8")).toContain(inner.trim());
    expect(raw.toString("latin1")).not.toMatch(/rfc822[\s\S]{0,200}base64/);
  });
});
