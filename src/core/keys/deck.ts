import { SWIPES, type Swipe } from "../swipe";

/** A deck is fifteen pads on the left-hand letter keys, in two layers: plain, and with Shift. */
export const PAD_CODES = [
  "KeyQ",
  "KeyW",
  "KeyE",
  "KeyR",
  "KeyT",
  "KeyA",
  "KeyS",
  "KeyD",
  "KeyF",
  "KeyG",
  "KeyZ",
  "KeyX",
  "KeyC",
  "KeyV",
  "KeyB",
] as const;
export type PadCode = (typeof PAD_CODES)[number];
export type Layer = "plain" | "shift";
export const LAYERS = ["plain", "shift"] as const satisfies readonly Layer[];

export const DECKS = [1, 2, 3, 4, 5, 6, 7, 8, 9] as const;
export type DeckNumber = (typeof DECKS)[number];

/** One pad: the key it is on, and the macro it runs. */
export interface Pad {
  readonly layer: Layer;
  readonly code: PadCode;
  readonly macro: number;
  /** Kept where it is, but its key does nothing. */
  readonly off?: true | undefined;
}

export interface Deck {
  readonly number: DeckNumber;
  readonly name: string;
  readonly pads: readonly Pad[];
  /** Macros on keys outside the fifteen, by sequence ("Ctrl+KeyE", "KeyN KeyF"); they hold in this deck. */
  readonly extra: readonly { readonly keys: string; readonly macro: number }[];
  /** What the four swipes run while this deck is up. */
  readonly swipes: Readonly<Partial<Record<Swipe, number | undefined>>>;
}

export const isPadCode = (code: string): code is PadCode => (PAD_CODES as readonly string[]).includes(code);
export const isDeckNumber = (n: number): n is DeckNumber => (DECKS as readonly number[]).includes(n);

export const padKeys = (pad: Pick<Pad, "layer" | "code">): string =>
  pad.layer === "shift" ? `Shift+${pad.code}` : pad.code;

/** The deck with the macro on that key, and off the key it was on if `move` says so. */
export function bindPad(deck: Deck, pad: Pad, move: boolean): Deck {
  const kept = deck.pads.filter(
    (other) => !(other.layer === pad.layer && other.code === pad.code) && !(move && other.macro === pad.macro),
  );
  return { ...deck, pads: [...kept, pad] };
}

export const clearPad = (deck: Deck, layer: Layer, code: PadCode): Deck => ({
  ...deck,
  pads: deck.pads.filter((pad) => !(pad.layer === layer && pad.code === code)),
});

/** Exchanges what is on two keys; one of them may be empty. */
export function swapPads(deck: Deck, a: Omit<Pad, "macro">, b: Omit<Pad, "macro">): Deck {
  const at = (pad: Omit<Pad, "macro">) => (other: Pad) => other.layer === pad.layer && other.code === pad.code;
  return {
    ...deck,
    pads: deck.pads.map((pad) => (at(a)(pad) ? { ...pad, ...b } : at(b)(pad) ? { ...pad, ...a } : pad)),
  };
}

/** What is to be on single keys and swipes, null for nothing; all others stay as they are. */
export interface DeckChange {
  readonly pads?: readonly (Omit<Pad, "macro"> & { readonly macro: number | null })[] | undefined;
  readonly extra?: readonly { readonly keys: string; readonly macro: number | null }[] | undefined;
  readonly swipes?: Readonly<Partial<Record<Swipe, number | null | undefined>>> | undefined;
}

const onPad = (pads: Deck["pads"], of: Pick<Pad, "layer" | "code">): Pad | undefined =>
  pads.find((pad) => pad.layer === of.layer && pad.code === of.code);
const onKeys = (extra: Deck["extra"], keys: string): number | null =>
  extra.find((one) => one.keys === keys)?.macro ?? null;

/** What differs between a deck as it was and as it is to be. */
export function deckChange(before: Deck, after: Deck): DeckChange {
  const pads = [...before.pads.filter((pad) => !onPad(after.pads, pad)), ...after.pads].flatMap((pad) => {
    const [was, is] = [onPad(before.pads, pad), onPad(after.pads, pad)];
    if (was?.macro === is?.macro && was?.off === is?.off) return [];
    return [is ?? { layer: pad.layer, code: pad.code, macro: null }];
  });
  const extra = [...new Set([...before.extra, ...after.extra].map(({ keys }) => keys))].flatMap((keys) => {
    const macro = onKeys(after.extra, keys);
    return onKeys(before.extra, keys) === macro ? [] : [{ keys, macro }];
  });
  const swipes = Object.fromEntries(
    SWIPES.flatMap((swipe) => {
      const macro = after.swipes[swipe] ?? null;
      return (before.swipes[swipe] ?? null) === macro ? [] : [[swipe, macro]];
    }),
  );
  return { pads, extra, swipes };
}

/** The deck with that changed, whatever else was changed in it meanwhile. */
export function changedDeck(deck: Deck, { pads = [], extra = [], swipes = {} }: DeckChange): Deck {
  let next = deck;
  for (const { macro, ...pad } of pads)
    next = macro === null ? clearPad(next, pad.layer, pad.code) : bindPad(next, { ...pad, macro }, false);
  const keys = new Set(extra.map((one) => one.keys));
  const put = extra.flatMap((one) => (one.macro === null ? [] : [{ keys: one.keys, macro: one.macro }]));
  const given = Object.entries({ ...next.swipes, ...swipes }).filter(([, macro]) => typeof macro === "number");
  return {
    ...next,
    extra: [...next.extra.filter((one) => !keys.has(one.keys)), ...put],
    swipes: Object.fromEntries(given) as Deck["swipes"],
  };
}
