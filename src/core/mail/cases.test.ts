import { isDeepStrictEqual } from "node:util";
import { describe, expect, test } from "vitest";
import { TRAIT } from "../narrow";
import {
  HEAD_FIELDS,
  isHeavy,
  keysOf,
  MboxSplitter,
  mboxEntry,
  MOST_MESSAGE_BYTES,
  parseHead,
  parseMessage,
  parseWithText,
  readMailDate,
  readParts,
  textOf,
  textOfHtml,
  viaOf,
} from ".";

const now = new Date("2026-11-24T12:00:00Z");
const bytes = (source: string) => Uint8Array.from(Buffer.from(source, "latin1"));
const parse = (source: string) => parseMessage(bytes(source), { now });
const DATE = "Date: Mon, 02 Nov 2026 09:00:00 +0100\n";
const HEAD = `From: Ines <ines@larch.example>\nSubject: Beds\n${DATE}Message-ID: <1@larch.example>\n`;

describe("words of HTML", () => {
  test.each([
    ["M&uuml;nchen &amp; Z&#252;rich &#xFC; &eacute;t&eacute; &Lstrok;ukasz", "München & Zürich ü été Łukasz"],
    ["&lt;b&gt; &amp;lt; &unknown; &copy 2026", "<b> &lt; &unknown; © 2026"],
    ["M<b>ü</b>n<i>ch</i>en", "München"],
    ["one<td>two</td><td>three</td>", "one two three"],
    ["a<br>b<p>c</p><div>d</div>e", "a b c d e"],
    [
      "<head><title>no</title></head><style>p{}</style><script>if (a < b) x()</script>yes<template>no</template>",
      "yes",
    ],
    ["<!-- no --><![CDATA[x]]>yes", "yes"],
    ["<a href='x>y' title=\"<b>\">link</a>", "link"],
    ["never <b closed", "never"],
    ["", ""],
  ])("%s", (html, words) => {
    expect(textOfHtml(html).replace(/\s+/g, " ").trim()).toBe(words);
  });
  test("are found as they are shown, also where the message has no other text", async () => {
    const raw = bytes(`${HEAD}Content-Type: text/html; charset=utf-8\n\n<p>Nach M&uuml;nchen</p><style>x</style>`);
    expect(textOf((await readParts(raw)).email).trim()).toBe("Nach München");
    expect((await parseWithText(raw, { now })).parsed.preview).toBe("Nach München");
  });
});

describe("what a message says about itself", () => {
  test("traits: of lists, reports, automatic answers, invitations and files", async () => {
    const traits = async (headers: string, body = "x") => (await parse(`${HEAD}${headers}\n${body}`)).traits;
    expect(await traits("")).toBe(0);
    expect(await traits("List-Unsubscribe: <https://x.example>\n")).toBe(TRAIT.listmail);
    expect(await traits("Auto-Submitted: auto-replied\n")).toBe(TRAIT.automatic);
    expect(await traits("Auto-Submitted: no\n")).toBe(0);
    expect(await traits("X-Status: A\n")).toBe(TRAIT.answered);
    const report = "Content-Type: multipart/report; report-type=delivery-status; boundary=b\n";
    expect((await traits(report, "--b\n\nx\n--b--\n")) & TRAIT.bounce).toBe(TRAIT.bounce);
    expect((await traits(report.replace("delivery-status", "other"), "--b\n\nx\n--b--\n")) & TRAIT.bounce).toBe(0);
    const mixed = (part: string) =>
      traits("Content-Type: multipart/mixed; boundary=b\n", `--b\n\nhello\n--b\n${part}\n\nAAAA\n--b--\n`);
    expect(await mixed("Content-Type: application/pdf\nContent-Disposition: attachment; filename=a.pdf")).toBe(
      TRAIT.attachment,
    );
    expect(await mixed("Content-Type: text/calendar\nContent-Disposition: attachment; filename=a.ics")).toBe(
      TRAIT.attachment | TRAIT.invite,
    );
  });
  test("pictures inside the text are no attachments; those beside it are", async () => {
    const related = (disposition: string) =>
      parse(
        `${HEAD}Content-Type: multipart/related; boundary=b\n\n--b\nContent-Type: text/html\n\n<img src="cid:1">\n--b\nContent-Type: image/png\nContent-ID: <1>\nContent-Disposition: ${disposition}; filename=a.png\n\nAAAA\n--b--\n`,
      );
    expect((await related("inline")).attachments).toEqual([]);
    expect((await related("attachment")).attachments).toEqual(["a.png"]);
  });
  test("references are those of both headers, each once, without its own, the last hundred", async () => {
    const ids = Array.from({ length: 120 }, (_, i) => `<r${i}@x.example>`).join(" ");
    const parsed = await parse(
      `${HEAD}References: ${ids} <r5@x.example>\nIn-Reply-To: <1@larch.example> <r119@x.example>\n\nx`,
    );
    expect(parsed.references).toHaveLength(100);
    expect(parsed.references[0]).toBe("<r20@x.example>");
    expect(parsed.references.at(-1)).toBe("<r119@x.example>");
    expect(parsed.messageId).toBe("<1@larch.example>");
  });
  test("a preview is what was written: no quotes, no heading said twice, 140 characters", async () => {
    const preview = async (body: string) => (await parse(`${HEAD}\n${body}`)).preview;
    expect(await preview("> quoted\n  > too\nOn Monday Bo wrote:\nOwn words")).toBe("Own words");
    expect(await preview("Beds for two")).toBe("for two");
    expect(await preview("Bedside")).toBe("Bedside");
    expect(await preview("x".repeat(500))).toHaveLength(140);
    expect(await preview(`Beds ${"y".repeat(500)}`)).toBe("y".repeat(139));
  });
  test("a date that is missing is that of the first hop, or of the import", async () => {
    const date = async (headers: string) => {
      const parsed = await parse(`From: a@x.example\n${headers}\n\nx`);
      return [parsed.date.toISOString(), parsed.flaws.filter((flaw) => flaw.includes("date"))];
    };
    const hop = "Received: from a by b; Tue, 03 Nov 2026 09:00:00 +0100";
    expect(await date(hop)).toEqual(["2026-11-03T08:00:00.000Z", ["no-date"]]);
    expect(await date(`Date: soon\n${hop}`)).toEqual(["2026-11-03T08:00:00.000Z", ["bad-date"]]);
    expect(await date("X: y")).toEqual([now.toISOString(), ["no-date"]]);
    expect(await date("Date: Tue, 03 Nov 2026 09:00:00 +0100")).toEqual(["2026-11-03T08:00:00.000Z", []]);
  });
  test("people: groups are opened, a domain is in lower case, the rest as written", async () => {
    const parsed = await parse(
      `From: "Ines" <Ines@LARCH.example>\nSender: s@x.example\nTo: Team: A <a@x.example>, b@X.example;, c@x.example\n${DATE}\nx`,
    );
    expect(parsed.from).toEqual({ name: "Ines", address: "Ines@larch.example" });
    expect(parsed.to.map((person) => person.address)).toEqual(["a@x.example", "b@x.example", "c@x.example"]);
    expect((await parse(`Sender: s@x.example\n${DATE}\nx`)).from.address).toBe("s@x.example");
    const nobody = await parse(`Subject: x\n${DATE}\nx`);
    expect([nobody.from, nobody.flaws.includes("no-sender")]).toEqual([{ name: "", address: "" }, true]);
  });
  test("of what relays note, twenty at the most, each no longer than an address may be, on one line", async () => {
    const noted = (values: readonly string[]) =>
      parse(`${HEAD}${values.map((value) => `Delivered-To: ${value}\n`).join("")}\nx`);
    expect((await noted([`${"d".repeat(400)}@huts.example`])).delivered).toEqual(["d".repeat(320)]);
    expect((await noted(["desk@huts.example\n\t(kept)"])).delivered).toEqual(["desk@huts.example (kept)"]);
    const many = Array.from({ length: 25 }, (_, n) => `desk${n}@huts.example`);
    expect((await noted(many)).delivered).toEqual(many.slice(0, 20));
  });
  test("the addresses it came to, as relays note them and as it names them", async () => {
    const parsed = await parse(
      `${HEAD}To: Other <x@y.example>\nCc: Me@huts.example\nDelivered-To: <desk@huts.example>\nX-Original-To: DESK@huts.example\n\nx`,
    );
    expect(parsed.delivered).toEqual(["desk@huts.example"]);
    expect(viaOf(parsed, new Set(["desk@huts.example", "me@huts.example"]))).toEqual([
      "desk@huts.example",
      "me@huts.example",
    ]);
    expect(viaOf(parsed, new Set(["other@huts.example"]))).toEqual([]);
  });
  test("marks of mailbox files", async () => {
    const marks = async (headers: string) => {
      const { read, flagged, keywords } = await parse(`${HEAD}${headers}\nx`);
      return [read, flagged, keywords];
    };
    expect(await marks("Status: RO\nX-Status: F\nX-Keywords:  a ,, b\n")).toEqual([true, true, ["a", "b"]]);
    expect(await marks("Status: O\n")).toEqual([false, false, []]);
  });
  test("an empty one says so, and so does one of blanks", async () => {
    expect((await parse("")).flaws).toContain("empty");
    expect((await parse("\n \r\n")).flaws).toContain("empty");
    expect((await parse(`${HEAD}\nx`)).flaws).toEqual([]);
  });
  test("headers that are too long are cut, and the body still follows", async () => {
    const parsed = await parseWithText(bytes(`${HEAD}${"X-Long: y\n".repeat(40_000)}\nthe body`), { now });
    expect(parsed.parsed.flaws).toContain("huge-header");
    expect([parsed.parsed.subject, parsed.text.trim()]).toEqual(["Beds", "the body"]);
  });
  test("headers with letters outside ASCII are read as what they are", async () => {
    const utf8 = Buffer.from(`From: a@x.example\nSubject: Zürich\n${DATE}\nx`, "utf8");
    for (const raw of [utf8, bytes(`From: a@x.example\nSubject: Z\u00fcrich\n${DATE}\nx`)]) {
      const parsed = await parseMessage(Uint8Array.from(raw), { now });
      expect([parsed.subject, parsed.flaws.includes("raw-8bit-header")]).toEqual(["Zürich", true]);
    }
  });
  test("from the headers alone: the same people, subject and date, no words, and why", async () => {
    const raw = bytes(`${HEAD}Content-Type: multipart/mixed; boundary=b\n\n--b\n\nsecret\n--b--\n`);
    const [whole, head] = [await parseMessage(raw, { now }), await parseHead(raw, { now })];
    expect(head).toMatchObject({
      from: whole.from,
      subject: "Beds",
      messageId: whole.messageId,
      preview: "",
      attachments: [],
    });
    expect(head.date).toEqual(whole.date);
    expect([isHeavy(head.flaws), isHeavy(whole.flaws)]).toEqual([true, false]);
  });
  test("the fields that are asked for say as much as all headers, and hops and seals are not among them", async () => {
    const fields = [
      "Received: from a.example by b.example; Tue, 24 Nov 2026 08:00:00 +0000",
      "DKIM-Signature: v=1; d=x.example;\n b=abc",
      "X-Original-To: hut@post.example",
      "Delivered-To: <office@post.example>",
      "Envelope-To: desk@post.example",
      "Authentication-Results: post.example; dmarc=fail; spf=fail",
      "From: Mara\n <mara@x.example>",
      "Sender: bo@x.example",
      "Reply-To: other@y.example",
      "To: hut@post.example, b@x.example",
      "Cc: =?utf-8?Q?Gr=C3=BCn?= <c@x.example>",
      "Subject: Beds\n for two",
      "Date: Mon, 02 Nov 2026 09:00:00 +0100",
      "Message-ID: <1@x.example>",
      "References: <0@x.example>",
      "In-Reply-To: <00@x.example>",
      "List-Id: Huts <huts.x.example>",
      "List-Unsubscribe: <https://x.example/off>",
      "Auto-Submitted: auto-generated",
    ];
    const read = (some: readonly string[]) => parseHead(bytes(`${some.join("\n")}\n\n`), { now });
    const asked = fields.filter((field) => HEAD_FIELDS.includes(field.slice(0, field.indexOf(":")).toLowerCase()));
    expect(fields.filter((field) => !asked.includes(field))).toEqual(fields.slice(0, 2));
    const all = await read(fields);
    expect(await read(asked)).toEqual(all);
    // Each of them says something: without it, what is read is something else.
    const silent: string[] = [];
    for (const field of asked)
      if (isDeepStrictEqual(await read(asked.filter((one) => one !== field)), all)) silent.push(field.split(":")[0]!);
    expect(silent).toEqual(["Sender", "List-Unsubscribe"]);
    const alone = await read(["Sender: bo@x.example", "List-Unsubscribe: <https://x.example/off>"]);
    expect([alone.from.address, alone.traits & TRAIT.listmail]).toEqual(["bo@x.example", TRAIT.listmail]);
  });
  test("what is searched is folded, people with names and addresses", async () => {
    const parsed = await parse(
      `From: "Łukasz" <l@x.example>\nTo: Bo <b@x.example>\nCc: c@x.example\nSubject: Hütte!\n${DATE}\nx`,
    );
    expect(keysOf(parsed)).toMatchObject({
      to: " bo b x example c x example ",
      cc: " c x example ",
      subject: " hutte ",
      list: " ",
      file: " ",
    });
  });
});

describe("mailbox files", () => {
  const text = (raw: Uint8Array) => Buffer.from(raw).toString("latin1");
  const split = (source: string, offset = 0) => {
    const splitter = new MboxSplitter(offset);
    const items = [...splitter.push(bytes(source)), ...splitter.finish()];
    return { raws: items.map((item) => text(item.raw)), items, problems: splitter.problems };
  };
  const FROM = "From ines@post.example Tue Nov 24 10:00:00 2026\n";
  test("a separator may hold nothing but the sender, on the first line alone", () => {
    expect(split("From ines@post.example\nSubject: a\n\nx\n\nFrom bo@post.example\nmore\n").raws).toEqual([
      "Subject: a\n\nx\n\nFrom bo@post.example\nmore\n",
    ]);
  });
  test.each([
    "From - Tue Nov 24 10:00:00 2026",
    "From a b@c Tue Nov 24 10:00 2026",
    "From x Tue Nov 24 10:00:00 +0100 2026",
    "From x Tue Nov 24 10:00:00 2026 +0100",
    "From x 1:02 1999",
  ])("%s separates", (separator) => {
    expect(split(`${FROM}Subject: a\n\nx\n\n${separator}\nSubject: b\n\ny\n`).raws).toHaveLength(2);
  });
  test.each(["From x Tue Nov 24 10:00:00 1899", "From x at ten 2026", "From10:00 2026", "from x 10:00 2026"])(
    "%s does not",
    (line) => {
      expect(split(`${FROM}Subject: a\n\nx\n\n${line}\nSubject: b\n\ny\n`).raws).toHaveLength(1);
    },
  );
  test("a line of that kind without an empty one before it is text", () => {
    expect(split(`${FROM}Subject: a\n\nx\n${FROM}y\n`).raws).toEqual([`Subject: a\n\nx\n${FROM}y\n`]);
  });
  test("line ends of two bytes, and a last line without one", () => {
    const source = `${FROM}Subject: a\r\n\r\nx\r\n\r\n${FROM}Subject: b\r\n\r\ny`;
    const { raws, items } = split(source);
    expect(raws).toEqual(["Subject: a\r\n\r\nx\r\n", "Subject: b\r\n\r\ny"]);
    expect(items.map((item) => [item.offset, item.end])).toEqual([
      [0, source.indexOf("From", 10)],
      [source.indexOf("From", 10), source.length],
    ]);
  });
  test("a length is believed with and without an empty line behind, at the end of the file too", () => {
    const cl = (n: number) => `Content-Length: ${n}`;
    const one = (gap: string) => split(`${FROM}${cl(2)}\n\nx\n${gap}${FROM}Subject: b\n\ny\n`).raws;
    for (const gap of ["", "\n", "\r\n"]) expect(one(gap)[0]).toBe(`${cl(2)}\n\nx\n`);
    expect(split(`${FROM}${cl(6)}\n\nFrom x`).raws).toEqual([`${cl(6)}\n\nFrom x`]);
  });
  test("a length is waited for until the separator behind it is in sight, wherever the stream is cut", () => {
    const body = `x\n\n${FROM}not a message\n`;
    const source = `${FROM}Content-Length: ${body.length}\n\n${body}\n${FROM}Subject: b\n\ny\n`;
    for (let cut = 1; cut < source.length; cut++) {
      const splitter = new MboxSplitter();
      const items = [source.slice(0, cut), source.slice(cut)].flatMap((part) => [...splitter.push(bytes(part))]);
      items.push(...splitter.finish());
      expect(items.map((item) => text(item.raw)).map((raw) => raw.slice(0, 8))).toEqual(["Content-", "Subject:"]);
    }
  });
  test("a message that is too large is passed over, and named by where it begins", () => {
    const big = `${FROM}Subject: big\n\n${"x".repeat(79)}\n`;
    const filler = Buffer.alloc(MOST_MESSAGE_BYTES + 1024, `${"y".repeat(79)}\n`);
    const splitter = new MboxSplitter();
    const items = [];
    items.push(...splitter.push(bytes(`${FROM}Subject: a\n\nx\n\n${big}`)));
    for (let at = 0; at < filler.length; at += 8 * 1024 * 1024)
      items.push(...splitter.push(filler.subarray(at, at + 8 * 1024 * 1024)));
    items.push(...splitter.push(bytes(`\n\n${FROM}Subject: b\n\ny\n`)), ...splitter.finish());
    expect(items.map((item) => text(item.raw).slice(0, 10))).toEqual(["Subject: a", "Subject: b"]);
    expect(splitter.problems).toMatchObject([{ reason: "too-large", offset: `${FROM}Subject: a\n\nx\n\n`.length }]);
  });
  test("what is written names a sender that can stand there, and quotes only what must be", () => {
    const entry = (raw: string, sender: string) =>
      text(mboxEntry(bytes(raw), sender, new Date("2026-11-24T10:00:00Z")));
    expect(entry("Subject: a\n\nFrom x\n>From y\nFromage\n", "a@x.example")).toBe(
      "From a@x.example Tue Nov 24 10:00:00 2026\nSubject: a\n\n>From x\n>>From y\nFromage\n\n",
    );
    expect(entry("From: header\n\nx", "two words")).toBe(
      "From MAILER-DAEMON Tue Nov 24 10:00:00 2026\nFrom: header\n\nx\n\n",
    );
  });
});

test("what may be meant to deceive is looked for in names of files, links, answers and what servers said", async () => {
  const raw = `${HEAD}Reply-To: Ines <ines@other.example>, nobody
Authentication-Results: mx.larch.example; dkim=fail header.d=larch.example
Content-Type: multipart/mixed; boundary=b

--b
Content-Type: text/html

<a href="https://trap.example/x">https://larch.example/</a>
--b
Content-Type: application/octet-stream
Content-Disposition: attachment; filename="plan.pdf.exe"

x
--b
Content-Type: application/pdf
Content-Disposition: attachment

y
--b--
`;
  const { clues } = await parse(raw);
  expect(clues.files).toEqual(["plan.pdf.exe"]);
  expect(clues.replyTo).toEqual(["ines@other.example"]);
  expect(clues.failed).toEqual([{ server: "mx.larch.example", check: "dkim=fail" }]);
  expect(clues.links).toHaveLength(1);
  expect((await parse(`${HEAD}\nx`)).clues).toEqual({ links: [], replyTo: [], failed: [], files: [] });
});

describe("when it was sent", () => {
  test.each([
    ["3 Nov 2026 10:00:30 UTC", "2026-11-03T10:00:30Z"],
    ["Tue, 3 Nov 2026 10:00 UT", "2026-11-03T10:00:00Z"],
    ["3 Nov 2026 10:00:00 GMT", "2026-11-03T10:00:00Z"],
    ["3 Nov 2026 10:00:00 Z", "2026-11-03T10:00:00Z"],
    ["3 Nov 2026 10:00:00 EST", "2026-11-03T15:00:00Z"],
    ["3 Nov 2026 10:00:00 EDT", "2026-11-03T14:00:00Z"],
    ["3 Nov 2026 10:00:00 CST", "2026-11-03T16:00:00Z"],
    ["3 Nov 2026 10:00:00 CDT", "2026-11-03T15:00:00Z"],
    ["3 Nov 2026 10:00:00 MST", "2026-11-03T17:00:00Z"],
    ["3 Nov 2026 10:00:00 MDT", "2026-11-03T16:00:00Z"],
    ["3 Nov 2026 10:00:00 PST", "2026-11-03T18:00:00Z"],
    ["3 Nov 2026 10:00:00 PDT", "2026-11-03T17:00:00Z"],
    ["3 Nov 2026 10:00:00 +0530", "2026-11-03T04:30:00Z"],
    ["3 Nov 49 10:00:00 -0100", null],
    ["3 Nov 50 10:00:00 -0100", null],
    ["3 Nov 71 10:00:00 -0100", "1971-11-03T11:00:00Z"],
  ])("%s", (raw, expected) => {
    expect(readMailDate(raw, now)?.toISOString() ?? null).toBe(expected?.replace("Z", ".000Z") ?? null);
  });
  test.each([
    [" \t2026-11-03T10:00:00+02:00", "2026-11-03T08:00:00Z"],
    ["(by hand) 2026-11-03T10:00:00Z", "2026-11-03T10:00:00Z"],
    // Of what is longer than any date the rest is not looked at: here it is the last figure of the zone.
    ["3 Nov 2026 10:00:00 +0100".padStart(200, "x "), "2026-11-03T09:00:00Z"],
    ["3 Nov 2026 10:00:00 +0100".padStart(201, "x "), "2026-11-03T10:00:00Z"],
  ])("%s", (raw, expected) => {
    expect(readMailDate(raw, now)?.toISOString()).toBe(expected.replace("Z", ".000Z"));
  });
  test("no later than 370 days ahead", () => {
    const ahead = (ms: number) => readMailDate(new Date(now.getTime() + 370 * 86_400_000 + ms).toISOString(), now);
    expect([ahead(0) === null, ahead(1000) === null]).toEqual([false, true]);
  });
});
