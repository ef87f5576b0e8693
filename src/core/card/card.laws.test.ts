import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { readCards, writeCards, type Card } from ".";

const lines = (...of: string[]) => of.map((line) => `${line}\r\n`).join("");
const card = (...of: string[]) => lines("BEGIN:VCARD", ...of, "END:VCARD");

const printable = fc
  .stringMatching(/^[\p{L}\p{N}\\,;:"'^=äöü漢🏔 -]{0,90}$/u)
  .map((text) => text.trim().replace(/ +/g, " "));
const address = fc
  .tuple(fc.stringMatching(/^[a-z0-9%+äö]{1,12}$/u), fc.stringMatching(/^[a-z][a-z0-9]{0,8}$/))
  .map(([local, domain]) => `${local}@${domain}.example`);
const note = fc.array(printable, { maxLength: 4 }).map((parts) => parts.join("\n").trim());
const people = fc
  .uniqueArray(fc.record({ name: printable, address, note }), { selector: (one) => one.address, maxLength: 6 })
  .map((all): Card[] => all.map((one) => ({ name: one.name, addresses: [one.address], note: one.note })));

describe("what is written as cards", () => {
  test.each([3, 4] as const)("reads back as it was: vCard %i", (version) => {
    fc.assert(
      fc.property(people, fc.array(fc.nat(), { maxLength: 8 }), printable, (all, picks, name) => {
        const members = [
          ...new Set(picks.map((i) => all[i % all.length]?.addresses[0]).filter((one) => one !== undefined)),
        ];
        const groups = name === "" || members.length === 0 ? [] : [{ name, members }];
        const back = readCards(writeCards(all, groups, version));
        expect(back.left).toEqual([]);
        expect(back.people).toEqual(all);
        expect(back.groups.map((one) => ({ name: one.name, members: [...one.members].sort() }))).toEqual(
          groups.map((one) => ({ name: one.name, members: [...one.members].sort() })),
        );
      }),
    );
  });

  test.each([3, 4] as const)("keeps each line within 75 octets and breaks no character: vCard %i", (version) => {
    fc.assert(
      fc.property(people, (all) => {
        const text = writeCards(all, [], version);
        const bytes = Buffer.from(text);
        expect(bytes.toString("utf8")).toBe(text);
        let from = 0;
        for (let at = bytes.indexOf("\r\n"); at >= 0; at = bytes.indexOf("\r\n", from)) {
          const line = bytes.subarray(from, at);
          expect(line.length).toBeLessThanOrEqual(75);
          expect(new TextDecoder("utf-8", { fatal: true }).decode(line)).not.toMatch(/[\r\n]/);
          from = at + 2;
        }
        expect(from).toBe(bytes.length);
      }),
    );
  });

  test.each([
    ["a", 1],
    ["\u07ff", 2],
    ["\u0800", 3],
    ["\uffff", 3],
    ["\u{10000}", 4],
    ["\u0080", 2],
    ["\u007f", 1],
  ])("a line is as long as it can be: %j takes %i octets", (char, size) => {
    const text = writeCards([{ name: char.repeat(200), addresses: ["a@b.example"], note: "" }], [], 4);
    const lines = text.split("\r\n");
    const first = lines.findIndex((line) => line.startsWith("FN:"));
    const end = lines.findIndex((line) => line.startsWith("EMAIL"));
    for (const line of lines.slice(first, end - 1)) {
      const octets = Buffer.byteLength(line);
      expect(octets).toBeLessThanOrEqual(75);
      expect(octets).toBeGreaterThan(75 - size);
    }
  });

  test("says what each version asks for, and hides what would end a value", () => {
    const ines = { name: "Reed, Ines; warden", addresses: ["ines@larch.example", "i@reed.example"], note: "a\nb\\c" };
    expect(writeCards([ines], [{ name: "Wardens", members: ["ines@larch.example"] }], 3)).toBe(
      card(
        "VERSION:3.0",
        "FN:Reed\\, Ines\\; warden",
        "N:Reed\\, Ines\\; warden;;;;",
        "EMAIL;TYPE=INTERNET,PREF:ines@larch.example",
        "EMAIL;TYPE=INTERNET:i@reed.example",
        "NOTE:a\\nb\\\\c",
        "CATEGORIES:Wardens",
      ),
    );
    expect(writeCards([ines], [{ name: "Wardens", members: ["ines@larch.example", "bo@fern.example"] }], 4)).toBe(
      card(
        "VERSION:4.0",
        "FN:Reed\\, Ines\\; warden",
        "EMAIL;PREF=1:ines@larch.example",
        "EMAIL:i@reed.example",
        "NOTE:a\\nb\\\\c",
      ) +
        card(
          "VERSION:4.0",
          "KIND:group",
          "FN:Wardens",
          "MEMBER:mailto:ines@larch.example",
          "MEMBER:mailto:bo@fern.example",
        ),
    );
  });

  test("a member whom nobody keeps is not lost in vCard 3, which has no groups", () => {
    const text = writeCards([], [{ name: "Guests", members: ["bo@fern.example"] }], 3);
    expect(readCards(text)).toEqual({
      people: [{ name: "", addresses: ["bo@fern.example"], note: "" }],
      groups: [{ name: "Guests", members: ["bo@fern.example"] }],
      left: [],
    });
  });
});

describe("cards of other programs", () => {
  test("grouped names, quoted parameters, folded lines, bare line ends and what stands around them", () => {
    const text = [
      "\uFEFFsome words before",
      "begin:vcard",
      "version:4.0",
      'item1.EMAIL;TYPE="work,home";X-A="a:b;c";PREF=2:MAILTO:Second@Fern.example',
      "EMAIL;PREF=1:first@fern.example",
      "N:Reed;Ines;Maria,Anna;Dr.;",
      "NOTE:she wri",
      " tes\\, mostly\\nabout keys",
      "\tand huts",
      "TEL;VALUE=uri:tel:+41-00-000",
      "ADR:;;Path 3;Fern;;1234;Nowhere",
      "end:vcard",
    ].join("\n");
    expect(readCards(text)).toEqual({
      people: [
        {
          name: "Dr. Ines Maria Anna Reed",
          addresses: ["first@fern.example", "second@fern.example"],
          note: "she writes, mostly\nabout keysand huts\nTelephone: +41-00-000\nAddress: Path 3, Fern, 1234, Nowhere",
        },
      ],
      groups: [],
      left: [],
    });
  });

  test("groups find their members by UID wherever those stand, and by address", () => {
    const text =
      card(
        "VERSION:4.0",
        "KIND:group",
        "FN:Wardens",
        "MEMBER:urn:uuid:AB-1",
        "MEMBER:mailto:b%2Bc@fern.example",
        "MEMBER:urn:uuid:none",
      ) +
      card("VERSION:4.0", "FN:Ines", "UID:urn:uuid:ab-1", "EMAIL:ines@larch.example") +
      card("VERSION:3.0", "FN:Bo", "EMAIL;TYPE=internet:bo@fern.example", "CATEGORIES:wardens,Guests\\, old");
    expect(readCards(text).groups).toEqual([
      { name: "Wardens", members: ["ines@larch.example", "b+c@fern.example", "bo@fern.example"] },
      { name: "Guests, old", members: ["bo@fern.example"] },
    ]);
  });

  test("what is preferred comes first: ranks from 1 to 100, else a type, else the order they stand in", () => {
    const order = (...emails: string[]) => readCards(card("VERSION:4.0", "FN:x", ...emails)).people[0]!.addresses;
    const [a, b, c] = ["a@x.example", "b@x.example", "c@x.example"];
    expect(order(`EMAIL:${a}`, `EMAIL;PREF=100:${b}`, `EMAIL;PREF=99:${c}`)).toEqual([c, b, a]);
    expect(order(`EMAIL:${a}`, `EMAIL;PREF=101:${b}`, `EMAIL;PREF=0:${c}`)).toEqual([a, b, c]);
    expect(order(`EMAIL;PREF=2:${a}`, `EMAIL;TYPE=Pref:${b}`, `EMAIL;PREF=1:${c}`)).toEqual([b, c, a]);
  });

  test("a group without a name is none, and one without members is one", () => {
    const groups =
      card("VERSION:4.0", "KIND:group", "MEMBER:mailto:a@x.example") + card("VERSION:4.0", "KIND:group", "FN:Empty");
    expect(readCards(groups).groups).toEqual([{ name: "Empty", members: [] }]);
  });

  test("what cannot be anybody is named with its reason, and nothing else is lost by it", () => {
    const text =
      card("VERSION:2.1", "FN:Old", "EMAIL:old@fern.example") +
      card("FN:None", "EMAIL:none@fern.example") +
      card("VERSION:3.0", "FN:Mute", "TEL:1") +
      card("VERSION:3.0", "FN:Odd", "EMAIL:odd at fern") +
      "BEGIN:VCARD\r\nVERSION:3.0\r\nFN:Open\r\nEMAIL:open@fern.example\r\n" +
      card("VERSION:3.0", "FN:Last", "EMAIL:last@fern.example");
    const read = readCards(text);
    expect(read.people.map(({ name }) => name)).toEqual(["Open", "Last"]);
    expect(read.left.map(({ name, why }) => [name, why.split(":")[0]])).toEqual([
      ["Old", "version 2.1 is not read"],
      ["None", "it does not say its version"],
      ["Mute", "it has no address"],
      ["Odd", '"odd at fern" cannot be an address'],
    ]);
  });

  test("any text is read without a fault", () => {
    fc.assert(fc.property(fc.string({ maxLength: 300 }), (text) => void readCards(card("VERSION:4.0", text))));
    expect(readCards("")).toEqual({ people: [], groups: [], left: [] });
  });
});
