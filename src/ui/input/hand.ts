import type { Hand } from "@/core/ledger";

/** What the person touched last: a key, or something pressed. A swipe says so itself, since it begins as a press. */

let last: Hand = "key";

if (typeof window !== "undefined")
  for (const [type, hand] of [
    ["keydown", "key"],
    ["pointerdown", "press"],
  ] as const)
    window.addEventListener(type, () => (last = hand), { capture: true, passive: true });

export const handNow = (): Hand => last;
