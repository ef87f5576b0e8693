import fc from "fast-check";
import { describe, expect, test } from "vitest";
import {
  bindingsOf,
  bindPad,
  browserKeeps,
  browserUses,
  chordName,
  clashesWith,
  conflictsAmong,
  frameOf,
  FRAME_KEYS,
  IDLE,
  keyTable,
  matchKey,
  PAD_CODES,
  PEEK_AFTER_MS,
  readChord,
  readSequence,
  SEQUENCE_WAIT_MS,
  swapPads,
  writeChord,
  writeSequence,
  type Chord,
  type Deck,
  type KeyState,
  type Outcome,
} from ".";

test("a frame action that was moved is on its own keys alone, and every other where it always is", () => {
  const moved = frameOf({ next: ["KeyP", "Ctrl+KeyJ"], undo: [], previous: undefined });
  const on = (action: string) => moved.filter(([, one]) => one === action).map(([keys]) => keys);
  expect(on("next")).toEqual(["KeyP", "Ctrl+KeyJ"]);
  expect(on("undo")).toEqual([]);
  expect(on("previous")).toEqual(["KeyK", "ArrowUp"]);
  expect(moved.filter(([, action]) => action !== "next" && action !== "undo")).toEqual(
    FRAME_KEYS.filter(([, action]) => action !== "next" && action !== "undo"),
  );
});

const arbChord: fc.Arbitrary<Chord> = fc.record({
  code: fc.constantFrom("KeyA", "KeyF", "Digit1", "Semicolon", "ArrowDown", "F5"),
  shift: fc.boolean(),
  ctrl: fc.boolean(),
  alt: fc.boolean(),
  meta: fc.boolean(),
});

describe("chords and sequences", () => {
  test("the written form reads back", () => {
    fc.assert(
      fc.property(fc.array(arbChord, { minLength: 1, maxLength: 3 }), (keys) => {
        expect(readSequence(writeSequence(keys))).toEqual(keys);
      }),
    );
  });
  test.each([
    "",
    "Shift",
    "ShiftLeft",
    "Ctrl+Ctrl+KeyA",
    "Hyper+KeyA",
    "keya",
    "KeyA KeyB KeyC KeyD",
    "KeyA keya",
    "keya KeyA",
  ])("refuses %j", (text) => {
    expect(readSequence(text)).toBeNull();
  });
  test("names follow the layout where it is known", () => {
    const chord = readChord("Shift+KeyY")!;
    expect(chordName(chord)).toBe("Shift Y");
    expect(chordName(chord, (code) => (code === "KeyY" ? "Z" : undefined))).toBe("Shift Z");
  });
});

const deck = (...pads: [code: string, macro: number][]): Deck => ({
  number: 1,
  name: "Test",
  pads: pads.map(([code, macro]) => ({ layer: "plain", code: code as "KeyF", macro })),
  extra: [],
  swipes: {},
});

describe("decks", () => {
  test("binding puts a macro on one key, and moves it there from another", () => {
    const bound = bindPad(deck(["KeyF", 1], ["KeyD", 2]), { layer: "plain", code: "KeyD", macro: 1 }, true);
    expect(bound.pads).toEqual([{ layer: "plain", code: "KeyD", macro: 1 }]);
  });
  test("swapping twice changes nothing, with an empty key too", () => {
    const at = (code: string) => ({ layer: "plain" as const, code: code as "KeyF" });
    fc.assert(
      fc.property(fc.constantFrom(...PAD_CODES), fc.constantFrom(...PAD_CODES), (a, b) => {
        const before = deck(["KeyF", 1], ["KeyD", 2], ["KeyQ", 3]);
        expect(swapPads(swapPads(before, at(a), at(b)), at(a), at(b))).toEqual(before);
      }),
    );
  });
});

describe("conflicts", () => {
  test("the starter keys have none", () => {
    expect(
      conflictsAmong(bindingsOf(FRAME_KEYS, deck(...PAD_CODES.map((code, i): [string, number] => [code, i + 1])))),
    ).toEqual([]);
  });
  test("the same keys, and a sequence whose beginning is bound", () => {
    const bindings = bindingsOf([["KeyX", "next"]], {
      ...deck(),
      extra: [
        { keys: "KeyX", macro: 1 },
        { keys: "KeyX KeyF", macro: 2 },
      ],
    });
    expect(conflictsAmong(bindings).map((c) => c.kind)).toEqual(["same-keys", "shadows", "shadows"]);
    expect(clashesWith(bindings, "KeyX KeyF KeyF")).toHaveLength(3);
    expect(clashesWith(bindings, "KeyM")).toHaveLength(0);
  });
  test("a beginning is a shadow whichever was bound first; one key in another's name is none", () => {
    const kinds = (...keys: string[]) => {
      const bindings = bindingsOf([], { ...deck(), extra: keys.map((one, macro) => ({ keys: one, macro })) });
      return conflictsAmong(bindings).map(({ kind, first }) => [kind, writeSequence(first.keys)]);
    };
    expect(kinds("KeyX", "KeyX KeyF")).toEqual([["shadows", "KeyX"]]);
    expect(kinds("KeyX KeyF", "KeyX")).toEqual([["shadows", "KeyX"]]);
    expect(kinds("KeyF", "KeyX KeyF")).toEqual([]);
    expect(kinds("F1", "F11 KeyF")).toEqual([]);
  });
  test("keys that browsers keep are known", () => {
    expect(browserKeeps("Ctrl+KeyW")).toBe(true);
    expect(browserKeeps("KeyW")).toBe(false);
    // One of several is enough.
    expect(browserKeeps("KeyG Ctrl+KeyW")).toBe(true);
    // The first that is given up is named.
    expect(browserUses("Tab F1")).toBe("move the focus");
    expect(browserUses("KeyG F1")).toBe("show help");
    expect(browserUses("KeyG KeyH")).toBeNull();
  });
});

/** Plays keys against a table: "F" down and up, "1_" down, "^1" up; times in milliseconds. */
function play(keys: readonly (readonly [key: string, atMs: number])[], bound: Deck): Outcome[] {
  const table = keyTable(bindingsOf(FRAME_KEYS, bound));
  let state: KeyState = IDLE;
  const out: Outcome[] = [];
  for (const [key, atMs] of keys) {
    const up = key.startsWith("^");
    const repeat = key.endsWith("*");
    const chord = readChord(key.replace(/[\^*]/g, ""))!;
    const step = matchKey(table, state, up ? { type: "up", code: chord.code } : { type: "down", chord, repeat }, atMs);
    state = step.state;
    if (step.outcome.kind !== "nothing") out.push(step.outcome);
  }
  return out;
}
const runs = (outcomes: readonly Outcome[]) =>
  outcomes.flatMap((o) => (o.kind === "command" && o.command.kind === "macro" ? [o.command.macro] : []));

describe("the matcher", () => {
  const bound: Deck = {
    ...deck(["KeyF", 1]),
    extra: [
      { keys: "KeyX KeyF", macro: 2 },
      { keys: "Ctrl+KeyE", macro: 3 },
    ],
  };

  test("a key, a chord and a sequence", () => {
    expect(
      runs(
        play(
          [
            ["KeyF", 0],
            ["Ctrl+KeyE", 10],
            ["KeyX", 20],
            ["KeyF", 30],
          ],
          bound,
        ),
      ),
    ).toEqual([1, 3, 2]);
  });
  test("a sequence that takes too long is over", () => {
    expect(
      runs(
        play(
          [
            ["KeyX", 0],
            ["KeyF", SEQUENCE_WAIT_MS + 1],
          ],
          bound,
        ),
      ),
    ).toEqual([1]);
  });
  test("a key that does not go on with a sequence is taken for itself", () => {
    expect(
      play(
        [
          ["KeyX", 0],
          ["KeyJ", 5],
        ],
        bound,
      ).at(-1),
    ).toMatchObject({ kind: "command", command: { kind: "frame", action: "next" } });
  });
  test("modifiers alone mean nothing, and do not end a sequence", () => {
    const table = keyTable(bindingsOf([], bound));
    const waiting = matchKey(table, IDLE, { type: "down", chord: readChord("KeyX")!, repeat: false }, 0).state;
    const shift = { code: "ShiftLeft", shift: true, ctrl: false, alt: false, meta: false };
    expect(matchKey(table, waiting, { type: "down", chord: shift, repeat: false }, 1)).toEqual({
      state: waiting,
      outcome: { kind: "nothing" },
    });
  });
  test("a digit tapped changes the deck, held it only shows it", () => {
    expect(
      play(
        [
          ["Digit2", 5000],
          ["^Digit2", 5000 + PEEK_AFTER_MS],
        ],
        bound,
      ).map((o) => o.kind),
    ).toEqual(["peek", "command"]);
    expect(
      play(
        [
          ["Digit2", 5000],
          ["^Digit2", 5000 + PEEK_AFTER_MS + 1],
        ],
        bound,
      ).map((o) => o.kind),
    ).toEqual(["peek", "unpeek"]);
    expect(
      play(
        [
          ["Digit2", 0],
          ["Digit2*", 40],
          ["KeyF", 50],
          ["^Digit2", 80],
        ],
        bound,
      ).map((o) => o.kind),
    ).toEqual(["peek", "command", "unpeek"]);
  });
  test("repeats are told apart, so that a held key decides once", () => {
    expect(
      play(
        [
          ["KeyF", 0],
          ["KeyF*", 30],
        ],
        bound,
      ).map((o) => o.kind === "command" && o.repeat),
    ).toEqual([false, true]);
  });
  test("every written chord of a deck is matched by its own key only", () => {
    fc.assert(
      fc.property(arbChord, arbChord, (a, b) => {
        const table = keyTable(bindingsOf([], { ...deck(), extra: [{ keys: writeChord(a), macro: 7 }] }));
        const { outcome } = matchKey(table, IDLE, { type: "down", chord: b, repeat: false }, 0);
        expect(outcome.kind === "command" && outcome.command.kind === "macro").toBe(writeChord(a) === writeChord(b));
      }),
    );
  });
});
