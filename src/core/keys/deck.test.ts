import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { bindPad, changedDeck, clearPad, deckChange, LAYERS, padKeys, swapPads, type Deck } from ".";

const deck: Deck = {
  number: 1,
  name: "Front desk",
  pads: [
    { layer: "plain", code: "KeyF", macro: 1 },
    { layer: "shift", code: "KeyF", macro: 2 },
    { layer: "plain", code: "KeyD", macro: 3 },
  ],
  extra: [],
  swipes: {},
};
const on = ({ pads }: Deck) => Object.fromEntries(pads.map((pad) => [padKeys(pad), pad.macro]));

test("a key is taken off its own layer alone", () => {
  expect(on(clearPad(deck, "shift", "KeyF"))).toEqual({ KeyF: 1, KeyD: 3 });
  expect(on(clearPad(deck, "plain", "KeyF"))).toEqual({ "Shift+KeyF": 2, KeyD: 3 });
  expect(on(clearPad(deck, "shift", "KeyD"))).toEqual(on(deck));
});

test("a macro put on a key replaces what is there, and leaves its other keys unless it moves", () => {
  const pad = { layer: "plain", code: "KeyD", macro: 1 } as const;
  expect(on(bindPad(deck, pad, false))).toEqual({ KeyF: 1, "Shift+KeyF": 2, KeyD: 1 });
  expect(on(bindPad(deck, pad, true))).toEqual({ "Shift+KeyF": 2, KeyD: 1 });
  expect(on(bindPad(deck, { ...pad, layer: "shift" }, false))).toEqual({ ...on(deck), "Shift+KeyD": 1 });
});

test("two keys exchange what is on them, on any layer, also where one is empty", () => {
  const [f, shiftF, a] = [
    { layer: "plain", code: "KeyF" },
    { layer: "shift", code: "KeyF" },
    { layer: "plain", code: "KeyA" },
  ] as const;
  expect(on(swapPads(deck, f, shiftF))).toEqual({ KeyF: 2, "Shift+KeyF": 1, KeyD: 3 });
  expect(on(swapPads(deck, f, a))).toEqual({ KeyA: 1, "Shift+KeyF": 2, KeyD: 3 });
  expect(on(swapPads(deck, a, f))).toEqual({ KeyA: 1, "Shift+KeyF": 2, KeyD: 3 });
});

describe("single keys of a deck", () => {
  const macro = fc.integer({ min: 1, max: 4 });
  const decks = fc
    .record({
      pads: fc.uniqueArray(
        fc.record(
          {
            layer: fc.constantFrom(...LAYERS),
            code: fc.constantFrom("KeyQ" as const, "KeyW" as const, "KeyE" as const),
            macro,
            off: fc.constant(true as const),
          },
          { requiredKeys: ["layer", "code", "macro"] },
        ),
        { selector: padKeys },
      ),
      extra: fc.uniqueArray(fc.record({ keys: fc.constantFrom("F6", "F7", "Alt+KeyM"), macro }), {
        selector: ({ keys }) => keys,
      }),
      swipes: fc.record({ "left-short": macro, "right-long": macro }, { requiredKeys: [] }),
    })
    .map((parts): Deck => ({ number: 1, name: "Any", ...parts }));
  /** What each key and swipe does, in no order. */
  const does = ({ pads, extra, swipes }: Deck): Record<string, string> =>
    Object.fromEntries([
      ...pads.map((pad) => [padKeys(pad), `${pad.macro}${pad.off ? " off" : ""}`]),
      ...extra.map((one) => [one.keys, String(one.macro)]),
      ...Object.entries(swipes).map(([swipe, of]) => [swipe, String(of)]),
    ]) as Record<string, string>;

  test("what differs makes one of the other, and nothing where nothing differs", () => {
    fc.assert(
      fc.property(decks, decks, (before, after) => {
        expect(does(changedDeck(before, deckChange(before, after)))).toEqual(does(after));
        expect(deckChange(before, before)).toEqual({ pads: [], extra: [], swipes: {} });
      }),
    );
  });

  test("changed by two windows, each key is what was said of it last, and all others are as they were", () => {
    fc.assert(
      fc.property(decks, decks, decks, (seen, mine, theirs) => {
        const both = does(changedDeck(changedDeck(seen, deckChange(seen, theirs)), deckChange(seen, mine)));
        const [was, my, their] = [does(seen), does(mine), does(theirs)];
        for (const key of Object.keys({ ...was, ...my, ...their, ...both }))
          expect([key, both[key]]).toEqual([key, my[key] === was[key] ? their[key] : my[key]]);
      }),
    );
  });

  test("names only what differs", () => {
    const after: Deck = {
      ...deck,
      pads: [deck.pads[0]!, { ...deck.pads[2]!, off: true }],
      extra: [{ keys: "F6", macro: 3 }],
      swipes: { "left-long": 2 },
    };
    expect(deckChange(deck, after)).toEqual({
      pads: [
        { layer: "shift", code: "KeyF", macro: null },
        { layer: "plain", code: "KeyD", macro: 3, off: true },
      ],
      extra: [{ keys: "F6", macro: 3 }],
      swipes: { "left-long": 2 },
    });
    expect(deckChange(after, deck)).toEqual({
      pads: [
        { layer: "shift", code: "KeyF", macro: 2 },
        { layer: "plain", code: "KeyD", macro: 3 },
      ],
      extra: [{ keys: "F6", macro: null }],
      swipes: { "left-long": null },
    });
  });
});
