"use client";
import type { Deck } from "@/core/keys";
import { SWIPES, type Swipe } from "@/core/swipe";
import { useView } from "../state/store";
import { changeDeck } from "./edit";

const NAMES: Record<Swipe, string> = {
  "right-short": "right, short",
  "right-long": "right, long",
  "left-short": "left, short",
  "left-long": "left, long",
};

/** What the four swipes of a row run while the deck is up. */
export function Swipes({ deck }: { readonly deck: Deck }) {
  const macros = useView((v) => v.macros);
  const put = (swipe: Swipe, macro: string) => {
    const { [swipe]: _, ...rest } = deck.swipes;
    const swipes = macro === "" ? rest : { ...rest, [swipe]: Number(macro) };
    void changeDeck(deck, { ...deck, swipes }, `Changed the swipe ${NAMES[swipe]}`);
  };
  return (
    <div
      className="mb-1 flex flex-wrap items-center gap-x-3 gap-y-1 text-xs text-ink-2"
      role="group"
      aria-label="Swipes"
    >
      <span className="font-semibold">Swipes</span>
      {SWIPES.map((swipe) => (
        <label key={swipe} className="flex items-center gap-1.5">
          {NAMES[swipe]}
          <select
            value={deck.swipes[swipe] ?? ""}
            onChange={(event) => put(swipe, event.target.value)}
            className="max-w-36 rounded-sm border border-rule bg-sheet px-1 py-0.5 text-ink"
          >
            <option value="">nothing</option>
            {macros.map((macro) => (
              <option key={macro.id} value={macro.id}>
                {macro.name}
              </option>
            ))}
          </select>
        </label>
      ))}
    </div>
  );
}
