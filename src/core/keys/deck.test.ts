import { expect, test } from "vitest";
import { bindPad, clearPad, padKeys, swapPads, type Deck } from ".";

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
