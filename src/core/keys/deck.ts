import type { Swipe } from "../swipe";

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
