import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { docOfText } from "../letter";
import { directory } from "../../../tests/fixtures/macro";
import type { Deck } from "../keys";
import type { Step } from "../macro";
import { makePack, PACK_KIND, PACK_VERSION, readPack, takePack, type Pack, type PackedMacro, type PackedRule } from ".";

const macro = (id: number, name: string, ...steps: Step[]): PackedMacro => ({
  id,
  name,
  colour: "spruce",
  steps,
  settings: {},
});
const ALL = [
  macro(1, "File", { do: "move", to: "Bookings/Groups" }, { do: "run macro", macro: "mark" }),
  macro(2, "Mark", { do: "label", add: "Invoice" }, { do: "marker", set: "W" }),
  macro(3, "Other", { do: "if", narrow: "unread", then: [{ do: "copy", to: "Archive" }] }),
];
const DECK: Deck = {
  number: 1,
  name: "Front desk",
  pads: [
    { layer: "plain", code: "KeyF", macro: 1 },
    { layer: "plain", code: "KeyD", macro: 3 },
  ],
  extra: [{ keys: "KeyX KeyF", macro: 2 }],
  swipes: { "right-long": 1, "left-long": 3 },
};
const NOWHERE = { directory: { folders: [], labels: [], markers: [] }, macros: [], decks: [] };

const RULE: PackedRule = {
  narrow: 'folder="bookings/groups" from~ferry',
  macro: "File",
  stop: true,
  list: "Ferry people",
  time: "arrival",
  moreThan: null,
  outside: false,
  holdMinutes: null,
  look: null,
  remark: null,
};

describe("rules of a pack", () => {
  const pack = (...rules: PackedRule[]) => makePack("Mine", [ALL[0]!], ALL, [], directory, [], rules);

  test("go along with their macros, and with what their conditions name", () => {
    const asking: PackedRule = { ...RULE, macro: null, time: "sending", look: "Sure?", narrow: "folder=Trash" };
    const made = pack(RULE, { ...RULE, macro: "Other" }, asking);
    expect(made.rules).toEqual([RULE, asking]);
    expect(made.folders).toEqual(["Bookings/Groups", "Trash"]);
    const read = readPack(JSON.stringify(made));
    expect(read.ok && read.pack.rules).toEqual([RULE, asking]);
    // Packs from before there were rules.
    const { rules: _, ...older } = made;
    const old = readPack(JSON.stringify(older));
    expect(old.ok && old.pack.rules).toEqual([]);
  });

  test("are taken in with the names that their macros and folders have here; without their macro they are left out", () => {
    const here = { ...NOWHERE, directory: { ...directory, folders: directory.folders.slice(0, 2) }, macros: ALL };
    const taken = takePack(pack(RULE), here, { folders: { "Bookings/Groups": "Inbox" } });
    expect(taken.rules).toEqual([{ ...RULE, macro: "File 2", narrow: "folder=Inbox from~ferry" }]);
    expect(takePack(pack(RULE), here, { clashes: { File: "leave" } }).rules).toEqual([]);
  });
});

describe("making a pack", () => {
  test("takes along what its macros run and name, and only their keys", () => {
    const pack = makePack("Mine", [ALL[0]!], ALL, [DECK], directory);
    expect(pack.macros.map((m) => m.name)).toEqual(["File", "Mark"]);
    expect(pack.folders).toEqual(["Bookings/Groups"]);
    expect(pack.labels).toEqual([{ name: "Invoice", colour: "amber" }]);
    expect(pack.markers).toEqual([{ letter: "W", colour: "plum", meaning: "" }]);
    expect(pack.decks).toEqual([
      {
        number: 1,
        name: "Front desk",
        pads: [{ layer: "plain", code: "KeyF", macro: "File" }],
        extra: [{ keys: "KeyX KeyF", macro: "Mark" }],
        swipes: { "right-long": "File" },
      },
    ]);
  });
  test("names are spelled as they are here; one that is nowhere goes along as it is", () => {
    const loose = macro(4, "Loose", { do: "move", to: "bookings/groups" }, { do: "copy", to: "Nowhere/Near" });
    const pack = makePack("Mine", [loose], [...ALL, loose], [DECK], directory);
    expect(pack.folders).toEqual(["Bookings/Groups", "Nowhere/Near"]);
    expect(pack.decks).toEqual([]);
  });
  test("names in branches, in conditions and in which messages it is for go along like the others", () => {
    expect(makePack("x", [ALL[2]!], ALL, [], directory).folders).toEqual(["Archive"]);
    const narrow: PackedMacro = {
      ...macro(4, "Narrow", { do: "only when", narrow: 'folder="bookings/groups" & label=Invoice' }, { do: "pin" }),
      settings: { for: "folder=Trash & marker=R" },
    };
    expect(makePack("x", [narrow], [], [], directory)).toMatchObject({
      folders: ["Bookings/Groups", "Trash"],
      labels: [{ name: "Invoice" }],
      markers: [{ letter: "R" }],
    });
    const taken = takePack(
      makePack("x", [narrow], [], [], directory),
      { ...NOWHERE, directory: { ...directory, folders: directory.folders.slice(0, 2) } },
      { folders: { "Bookings/Groups": "Inbox", Trash: "Archive" } },
    );
    expect(taken.macros[0]).toMatchObject({
      steps: [{ narrow: "folder=Inbox & label=Invoice" }, {}],
      settings: { for: "folder=Archive & marker=R" },
    });
  });
});

test("templates go along with the macros that name them; one that is here already stays as it is", () => {
  const templates = [
    { name: "Thanks", folder: "Answers", subject: "Re", body: docOfText("Thank you") },
    { name: "Unused", folder: "", subject: "", body: docOfText("x") },
  ];
  const answers = macro(
    7,
    "Answer",
    { do: "reply", template: "thanks" },
    { do: "forward", to: { ask: "text" }, template: "Gone" },
  );
  const pack = makePack("x", [answers], [answers], [], directory, templates);
  expect(pack.templates).toEqual([templates[0], "Gone"]);
  const read = readPack(JSON.stringify(pack));
  if (!read.ok) throw new Error(read.why);
  const here = { directory, macros: [], decks: [] };
  expect(takePack(read.pack, here).templates).toEqual([templates[0]]);
  expect(takePack(read.pack, { ...here, templates: ["THANKS"] }).templates).toEqual([]);
});

describe("taking a pack in", () => {
  const chosen = fc.subarray(ALL, { minLength: 1 });
  test("what was packed is what comes out, in a mailbox that has none of it", () => {
    fc.assert(
      fc.property(chosen, (macros) => {
        const pack = makePack("Mine", macros, ALL, [DECK], directory);
        const read = readPack(JSON.stringify(pack));
        expect(read.ok && read.pack).toEqual(pack);
        const taking = takePack(pack, NOWHERE);
        expect(taking.macros.map(({ name, steps }) => ({ name, steps }))).toEqual(
          pack.macros.map(({ name, steps }) => ({ name, steps })),
        );
        expect(taking).toMatchObject({ clashes: [], takenKeys: [], folders: pack.folders });
      }),
    );
  });
  const pack = makePack("Mine", ALL, ALL, [DECK], directory);
  const here = {
    directory,
    macros: [macro(9, "file", { do: "pin" })],
    decks: [{ ...DECK, pads: [DECK.pads[1]!], swipes: { "left-long": 9 } }],
  };
  test("names that are taken get a number, are replaced or left out; macros that run them follow", () => {
    expect(takePack(pack, here).macros.map((m) => [m.name, m.replaces])).toEqual([
      ["File 2", null],
      ["Mark", null],
      ["Other", null],
    ]);
    expect(takePack(pack, here, { clashes: { File: "replace" } }).macros[0]).toMatchObject({
      name: "file",
      replaces: 9,
    });
    expect(takePack(pack, here, { clashes: { File: "leave" } }).macros.map((m) => m.name)).toEqual(["Mark", "Other"]);
    const caller = makePack(
      "x",
      [macro(1, "A", { do: "run macro", macro: "B" }), macro(2, "B", { do: "pin" })],
      [],
      [],
      directory,
    );
    const taken = takePack(caller, { ...here, macros: [macro(9, "B", { do: "read" })] });
    expect(taken.macros[0]!.steps).toEqual([{ do: "run macro", macro: "B 2" }]);
  });
  test("keys that are taken stay as they are, and may all be left", () => {
    const taking = takePack(pack, here);
    expect(taking.takenKeys.map(({ keys, macro: name, why }) => [keys, name, why])).toEqual([
      ["KeyD", "Other", "taken"],
      ["KeyX KeyF", "Mark", "taken"],
      ["left-long", "Other", "taken"],
    ]);
    expect(taking.swipes).toEqual([{ deck: 1, swipe: "right-long", macro: "File 2" }]);
    expect(taking.pads.map((pad) => [pad.code, pad.macro])).toEqual([["KeyF", "File 2"]]);
    expect(takePack(pack, here, { keys: false })).toMatchObject({ pads: [], extra: [], swipes: [] });
  });
  test("keys that the frame, the digits or browsers have, and what are no keys, stay as they are too", () => {
    const keys = ["KeyJ", "Semicolon KeyA", "Digit3", "Ctrl+KeyW", "no key", "Ctrl+KeyE"];
    const wild = { ...pack, decks: [{ ...pack.decks[0]!, extra: keys.map((one) => ({ keys: one, macro: "Mark" })) }] };
    const taking = takePack(wild, { ...here, decks: [] });
    expect(taking.takenKeys.map(({ keys: left, why }) => [left, why])).toEqual([
      ["KeyJ", "frame"],
      ["Semicolon KeyA", "frame"],
      ["Digit3", "deck"],
      ["Ctrl+KeyW", "browser"],
      ["no key", "unreadable"],
    ]);
    expect(taking.extra).toEqual([{ deck: 1, keys: "Ctrl+KeyE", macro: "Mark" }]);
  });
  test("what is left out leaves its keys and swipes too", () => {
    const taking = takePack(pack, { ...here, decks: [] }, { clashes: { File: "leave" } });
    expect(taking.pads.map((pad) => [pad.code, pad.macro])).toEqual([["KeyD", "Other"]]);
    expect(taking.extra.map((one) => [one.keys, one.macro])).toEqual([["KeyX KeyF", "Mark"]]);
    expect(taking.swipes).toEqual([{ deck: 1, swipe: "left-long", macro: "Other" }]);
  });
  test("a missing folder is made, or another is used in its place", () => {
    const elsewhere = { ...NOWHERE, directory: { ...directory, folders: directory.folders.slice(0, 2) } };
    expect(takePack(pack, elsewhere).folders).toEqual(["Bookings/Groups"]);
    const mapped = takePack(pack, elsewhere, { folders: { "Bookings/Groups": "Inbox" } });
    expect(mapped.folders).toEqual([]);
    expect(mapped.macros[0]!.steps[0]).toEqual({ do: "move", to: "Inbox" });
  });
});

describe("reading a file that may be anything", () => {
  test("never throws, and says why where it is no pack", () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json()), (text) => {
        const read = readPack(text);
        expect(read.ok || read.why.length > 10).toBe(true);
      }),
    );
  });
  test.each([
    ["nested too deep to be real", "[".repeat(5000) + "]".repeat(5000)],
    ["of a later version", JSON.stringify({ kind: PACK_KIND, version: PACK_VERSION + 1 })],
    [
      "with a step nobody knows",
      JSON.stringify({
        kind: PACK_KIND,
        version: 1,
        name: "x",
        macros: [{ name: "a", colour: "spruce", steps: [{ do: "fly" }] }],
      }),
    ],
    ["larger than any pack", " ".repeat(3 * 1024 * 1024)],
  ])("refuses one %s", (_what, text) => expect(readPack(text)).toMatchObject({ ok: false, why: expect.any(String) }));
  test("says where, as a person would", () => {
    const pack = makePack("Mine", ALL, ALL, [DECK], directory);
    const why = (damaged: object) => {
      const read = readPack(JSON.stringify({ ...pack, ...damaged }));
      return read.ok ? "" : read.why;
    };
    const damaged = { ...pack.macros[1]!, steps: [{ do: "read" }, { do: "move" }] };
    expect(why({ macros: [pack.macros[0]!, damaged] })).toContain("in the macro “Mark”, step 2");
    expect(why({ macros: [{ ...damaged, name: "" }] })).toContain("in macro 1");
    expect(why({ decks: [{ ...pack.decks[0]!, pads: 5 }] })).toContain("in the keys of deck 1");
    expect(why({ labels: [{ name: "", colour: "amber" }] })).toContain("in its labels, number 1");
    expect(why({ name: "" })).toContain("at its name");
    expect(why({ folders: ["a//b"] })).toContain("“a//b” is no folder");
  });
  test("what it does not know is refused, not dropped", () => {
    const pack: Pack = makePack("Mine", ALL, ALL, [], directory);
    expect(readPack(JSON.stringify({ ...pack, more: 1 }))).toMatchObject({ ok: false });
  });
});
