import { chordName, padKeys, readSequence, type Deck } from "@/core/keys";

/** One place a macro is bound at. */
export interface Bound {
  readonly deck: Deck;
  /** As it is stored: "Shift+KeyE", "KeyN KeyF". */
  readonly keys: string;
  readonly off: boolean;
}

/** Every key a macro is on, in the order of the decks. */
export const boundAt = (decks: readonly Deck[], macro: number): Bound[] =>
  decks.flatMap((deck) => [
    ...deck.pads
      .filter((pad) => pad.macro === macro)
      .map((pad) => ({ deck, keys: padKeys(pad), off: pad.off === true })),
    ...deck.extra.filter((extra) => extra.macro === macro).map(({ keys }) => ({ deck, keys, off: false })),
  ]);

/** Keys as a person reads them, by what the layout prints. */
export const keysText = (keys: string, labelOf: (code: string) => string): string =>
  (readSequence(keys) ?? []).map((chord) => chordName(chord, labelOf)).join(" then ") || keys;
