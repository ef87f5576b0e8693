import { describe, expect, test } from "vitest";
import { bindingsOf, foreseenBy, FRAME_KEYS, keyTable, type Chord, type Deck } from ".";

const deck: Deck = {
  number: 1,
  name: "x",
  pads: [
    { layer: "plain", code: "KeyF", macro: 1 },
    { layer: "shift", code: "KeyF", macro: 2 },
    { layer: "plain", code: "KeyD", macro: 3, off: true },
  ],
  extra: [{ keys: "Alt+KeyE", macro: 4 }],
  swipes: {},
};
const table = keyTable(bindingsOf(FRAME_KEYS, deck));
const chord = (code: string, more: Partial<Chord> = {}): Chord => ({
  code,
  shift: false,
  ctrl: false,
  alt: true,
  meta: false,
  ...more,
});

describe("looking before a key is pressed", () => {
  test("Alt with a pad's key is that pad's macro, in either layer", () => {
    expect(foreseenBy(table, chord("KeyF"))).toBe(1);
    expect(foreseenBy(table, chord("KeyF", { shift: true }))).toBe(2);
  });
  test("is nothing for frame keys, for other modifiers, and where the chord with Alt is bound itself", () => {
    expect(foreseenBy(table, chord("KeyJ"))).toBeUndefined();
    expect(foreseenBy(table, chord("KeyF", { ctrl: true }))).toBeUndefined();
    expect(foreseenBy(table, chord("KeyF", { alt: false }))).toBeUndefined();
    expect(foreseenBy(table, chord("KeyE"))).toBeUndefined();
  });
  test("a pad that is switched off is bound to nothing", () => {
    expect(table.whole.has("KeyD")).toBe(false);
    expect(foreseenBy(table, chord("KeyD"))).toBeUndefined();
  });
});
