import { describe, expect, test } from "vitest";
import { acquaintanceOf, nameKey, NO_CLUES, suspicionsOf, type Clues, type Sender } from ".";

/** What does not fit about a message, given whom one knows. */

const known = acquaintanceOf({
  contacts: [
    { name: "Ines Okafor", address: "Ines@Larch.example" },
    { name: "Ines Okafor", address: "ines@home.example" },
    { name: "Bo", address: "bo@tarn.example" },
    { name: "Nobody At All", address: "no address" },
  ],
  writtenTo: ["Office@ValleyBank.example"],
  own: [{ name: "Bookings Office", address: "bookings@larchhuts.example" }],
  hosts: ["imap.hosting.example"],
});
const see = (sender: Partial<Sender>, clues: Partial<Clues> = {}) =>
  suspicionsOf({ name: "", address: "x@stranger.example", list: "", ...sender }, { ...NO_CLUES, ...clues }, known);
const signs = (...of: Parameters<typeof see>) => see(...of).map(({ sign }) => sign);

describe("a name somebody else has", () => {
  test.each([
    ["Ines Okafor", "ines@mailbox.test"],
    ["okafor, ines", "x@mailbox.test"],
    ["INÉS  OKAFOR", "x@mailbox.test"],
    ["Bookings Office", "boss@mailbox.test"],
    ["ines@larch.example", "x@mailbox.test"],
    ["Ines <ines@larch.example>", "x@mailbox.test"],
  ])("%s <%s>", (name, address) => expect(signs({ name, address })).toEqual(["falsename"]));
  test.each([
    ["Ines Okafor", "INES@larch.example"],
    ["Ines Okafor", "ines.okafor@mail.larch.example"],
    ["Ines Okafor", "other@home.example"],
    ["Bo", "bo@mailbox.test"],
    ["Ines", "ines@mailbox.test"],
    ["Somebody Else", "x@mailbox.test"],
    ["x@mail.mailbox.test", "y@mailbox.test"],
    ["", "x@mailbox.test"],
  ])("but not %s <%s>", (name, address) => expect(signs({ name, address })).toEqual([]));
  test("says both addresses", () => {
    expect(see({ name: "Ines Okafor", address: "ines@mailbox.test" })[0]!.evidence).toBe(
      "you know Ines Okafor as ines@larch.example; it came from ines@mailbox.test",
    );
  });
  test("names are the same whatever their case, order and marks, and short ones are nobody's", () => {
    expect(nameKey("Åsa-Marie Lund")).toBe("asa lund marie");
    expect(nameKey("Bo Li")).toBeNull();
    expect(nameKey("Bo Ling")).toBe("bo ling");
    expect(nameKey("Information")).toBeNull();
  });
});

describe("a domain like one that is known", () => {
  test("is told, unless that very address is known", () => {
    expect(see({ address: "office@valleybenk.example" })).toEqual([
      { sign: "lookalike", evidence: "valleybenk.example is one letter from valleybank.example" },
    ]);
    expect(signs({ address: "x@larchhuts-pay.test" })).toEqual(["lookalike"]);
    // Near are oneself and contacts: their names stand in no other domain's.
    expect(signs({ address: "x@my-larch.test" })).toEqual(["lookalike"]);
    expect(signs({ address: "x@my-valleybank.test" })).toEqual([]);
    const met = acquaintanceOf({
      contacts: [],
      writtenTo: ["office@valleybank.example", "a@valleybenk.example"],
      own: [],
      hosts: [],
    });
    expect(suspicionsOf({ name: "", address: "b@valleybenk.example", list: "" }, NO_CLUES, met)).toEqual([]);
  });
});

describe("answers that go elsewhere", () => {
  test.each([
    [{ replyTo: ["x@other.test"] }, {}, ["otherreply"]],
    [{ replyTo: ["x@stranger.example", "y@other.test"] }, {}, ["otherreply"]],
    [{ replyTo: ["x@mail.stranger.example"] }, {}, []],
    [{ replyTo: ["Ines@larch.example"] }, {}, []],
    [{ replyTo: ["x@other.test"] }, { list: "news.other.test" }, []],
    [{ replyTo: ["office@valleybank.EXAMPLE"] }, {}, []],
    [{ replyTo: [] }, {}, []],
    [{ replyTo: ["x@other.test"] }, { address: "" }, []],
  ] as const)("%j %j: %j", (clues, sender, found) => expect(signs(sender, clues)).toEqual(found));
});

test("of several the first is named", () =>
  expect(see({}, { replyTo: ["x@stranger.example", "x@other.test", "y@more.test"] })).toEqual([
    { sign: "otherreply", evidence: "answers would go to x@other.test, not to x@stranger.example" },
  ]));

describe("links and files", () => {
  const link = (said: string, to: string) => ({ text: said, said, to });
  test("a list may lead by way of a place of its own, but not to where one knows somebody", () => {
    const links = [link("outfit.example", "click.stranger.example")];
    expect(signs({ list: "news.stranger.example" }, { links })).toEqual([]);
    // Whoever deceives has a place of their own too.
    expect(signs({}, { links })).toEqual(["falselink"]);
    const known = [link("www.tarn.example", "click.stranger.example")];
    expect(signs({ list: "news.stranger.example" }, { links: known })).toEqual(["falselink"]);
    expect(see({ list: "x" }, { links: [...links, link("outfit.example", "evil.test")] })).toEqual([
      { sign: "falselink", evidence: "“outfit.example” leads to evil.test" },
    ]);
  });
  test("a file that runs", () => expect(signs({}, { files: ["a.exe"] })).toEqual(["oddfile"]));
});

describe("failed checks", () => {
  const failed = (server: string) => [{ server, check: "dmarc=fail" }];
  test.each(["mx.larchhuts.example", "larchhuts.example", "mx3.hosting.example"])("of %s count", (server) =>
    expect(see({}, { failed: failed(server) })).toEqual([
      { sign: "failedcheck", evidence: `your server ${server} could not confirm the sender: dmarc=fail` },
    ]),
  );
  test.each(["mx.stranger.example", "larchhuts.example.evil.test", "mx.larch.example"])("of %s do not", (server) =>
    expect(signs({}, { failed: failed(server) })).toEqual([]),
  );
});

test("everything at once is said once each, in a fixed order", () => {
  const clues = {
    links: [{ text: "a.example", said: "a.example", to: "evil.test" }],
    replyTo: ["x@evil.test"],
    failed: [{ server: "mx.larchhuts.example", check: "spf=fail" }],
    files: ["a.exe", "b.exe"],
  };
  expect(signs({ name: "Ines Okafor", address: "x@1archhuts.example" }, clues)).toEqual([
    "falselink",
    "lookalike",
    "falsename",
    "otherreply",
    "failedcheck",
    "oddfile",
  ]);
});
