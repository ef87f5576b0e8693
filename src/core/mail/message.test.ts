import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { TRAIT } from "../narrow";
import { baseSubject } from "../thread";
import { parseMessage, readMailDate, textOfHtml } from ".";

const now = new Date("2026-11-24T12:00:00Z");
const parse = (source: string) => parseMessage(Uint8Array.from(Buffer.from(source, "latin1")), { now });

describe("headers", () => {
  test("people, thread, list and marks", async () => {
    const parsed = await parse(
      'From: "Okafor, Ines" <Ines@POST.example>\nTo: a@x.example, Bo <b@x.example>\nCc: friends: c@x.example;\nSubject: =?utf-8?Q?Gr=C3=BC=C3=9Fe?=\nMessage-ID: <1@x>\nReferences: <0@x>\nIn-Reply-To: <0@x>\nList-Id: Huts <huts.x.example>\nStatus: RO\nX-Status: AF\nX-Keywords: Invoice, Winter season\nDate: Mon, 02 Nov 2026 09:00:00 +0100\n\n> quoted\nOwn words\n',
    );
    expect(parsed).toMatchObject({
      from: { name: "Okafor, Ines", address: "Ines@post.example" },
      subject: "Grüße",
      messageId: "<1@x>",
      references: ["<0@x>"],
      list: "huts.x.example",
      read: true,
      flagged: true,
      keywords: ["Invoice", "Winter season"],
      preview: "Own words",
      flaws: [],
    });
    expect(parsed.cc).toHaveLength(1);
    expect(parsed.traits & TRAIT.listmail).toBeTruthy();
    expect(parsed.traits & TRAIT.answered).toBeTruthy();
    expect(parsed.date.toISOString()).toBe("2026-11-02T08:00:00.000Z");
  });
  test.each([
    ["Huts  of the <valley", "Huts of the <valley"],
    ["  odd \t list  ", "odd list"],
    ["<one.example> and <two.example>", "one.example"],
    ["", ""],
  ])("a list that calls itself %j is %j", async (listId, list) => {
    expect((await parse(`From: a@x.example\nList-Id: ${listId}\n\nx\n`)).list).toBe(list);
  });
  test("a heading that repeats the subject is not in the preview", async () => {
    const of = async (subject: string, html: string) =>
      (await parse(`From: a@x.example\nSubject: ${subject}\nContent-Type: text/html\n\n${html}\n`)).preview;
    expect(await of("New ropes", "<h1>New ropes</h1><p>Lighter by half.</p>")).toBe("Lighter by half.");
    expect(await of("New", "<p>Newcomers are welcome.</p>")).toBe("Newcomers are welcome.");
    expect(await of("New ropes", "<p>New ropes</p>")).toBe("New ropes");
  });
  test("a missing date is the last hop's, or the import's", async () => {
    expect(
      (
        await parse("From: a@x.example\nReceived: from b by c; Mon, 02 Nov 2026 10:00:00 +0000\n\nx")
      ).date.toISOString(),
    ).toBe("2026-11-02T10:00:00.000Z");
    expect((await parse("From: a@x.example\n\nx")).date).toEqual(now);
  });
  test("any bytes at all give a message and never throw", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.uint8Array({ maxLength: 300 }),
          fc
            .array(
              fc.constantFrom(
                "Content-Type: multipart/mixed; boundary=a\n",
                "--a\n",
                "--a--\n",
                "\n",
                "Subject: =?x?B?",
                "From: <<>>",
                "Content-Transfer-Encoding: base64\n",
                "\0",
                "=?utf-8?Q?=ZZ?=",
              ),
              { maxLength: 12 },
            )
            .map((p) => Buffer.from(p.join(""), "latin1")),
        ),
        async (raw) => {
          const parsed = await parseMessage(raw, { now });
          expect(parsed.date.getTime()).toBeGreaterThan(0);
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe("dates", () => {
  test.each([
    ["Mon, 02 Nov 2026 09:00:00 +0100", "2026-11-02T08:00:00.000Z"],
    ["2 Nov 26 09:00 EST", "2026-11-02T14:00:00.000Z"],
    ["Mon, 2-Nov-2026 09.00.01 GMT (comment)", "2026-11-02T09:00:01.000Z"],
    ["2026-11-02T09:00:00Z", "2026-11-02T09:00:00.000Z"],
    ["yesterday", null],
    ["Mon, 02 Foo 2026 09:00:00 +0100", null],
    ["Mon, 02 Nov 2126 09:00:00 +0000", null],
    ["Thu, 01 Jan 1970 00:00:00 +0000", null],
  ])("%s", (raw, iso) => {
    expect(readMailDate(raw, now)?.toISOString() ?? null).toBe(iso);
  });
});

describe("subjects", () => {
  test.each([
    ["Re: beds", "beds", true],
    ["RE: Fwd: Aw[2]: beds", "beds", true],
    ["[huts] Re: [huts] beds", "beds", true],
    ["Reading list", "Reading list", false],
    ["Re:", "", true],
    ["[only]", "[only]", false],
  ])("%s", (subject, base, isReply) => {
    expect(baseSubject(subject)).toEqual({ base, isReply });
  });
});

describe("words of HTML", () => {
  test("without marks, styles and scripts", () => {
    expect(
      textOfHtml("<style>p{}</style><p>a&amp;b</p><script>x</script>&#8364;<br>c<!-- no -->")
        .replace(/\s+/g, " ")
        .trim(),
    ).toBe("a&b € c");
  });
  test("stays linear on what would make a pattern look to the end from every <", () => {
    for (const evil of ["<", "<style>", "<!--", "<script><"])
      expect(textOfHtml(evil.repeat(100_000)).length).toBeLessThan(200_001);
  });
});
