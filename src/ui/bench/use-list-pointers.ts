import type { MouseEvent } from "react";
import type { MacroShape } from "@/core/api";
import type { Swipe } from "@/core/swipe";
import { useSwipe } from "../input/swipe";
import { focusMessage, foldGroup } from "../state/browse";
import { openFocused } from "../state/reading";
import { runMacro, targetsOf } from "../state/run";
import { moveTo, tick } from "../state/select";
import { notify, useView } from "../state/store";

/**
 * What pointers do on the list: a press opens or ticks, a swipe runs a macro, a long press begins to tick.
 * @param tall whether this is a list for a thumb: once ticking has begun, a tap ticks
 */
export function useListPointers(tall: boolean) {
  const selected = useView((v) => v.selected);
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find((d) => d.number === v.deck));
  const macroOn = (swipe: Swipe | null): MacroShape | undefined =>
    macros.find((macro) => swipe !== null && macro.id === deck?.swipes[swipe]);
  const { swiping, isSpent, pointers } = useSwipe({
    rowOf: (target) => {
      const element = (target as HTMLElement).closest<HTMLElement>("[data-id]");
      const id = element?.dataset.id;
      return element && id ? { row: id, widthPx: element.clientWidth } : null;
    },
    onSwipe: (row, swipe) => {
      const macro = macroOn(swipe);
      if (!macro) return notify("No macro is on this swipe. Put one there in the workshop.");
      focusMessage(Number(row));
      runMacro(macro, selected > 0 ? { by: "swipe" } : { by: "swipe", ids: targetsOf(macro, [Number(row)]) });
    },
    onLongPress: (row) => {
      if (focusMessage(Number(row))) tick();
    },
  });
  const press = (event: MouseEvent<HTMLDivElement>) => {
    if (isSpent()) return;
    const element = (event.target as HTMLElement).closest<HTMLElement>("[data-place]");
    if (!element) return;
    const at = Number(element.dataset.place);
    const onTick = (event.target as HTMLElement).closest("[data-tick]") !== null || event.ctrlKey || event.metaKey;
    moveTo(at, event.shiftKey);
    if (event.shiftKey) return;
    if (onTick || (tall && selected > 0)) tick(at);
    else if (element.dataset.head !== undefined) foldGroup();
    else openFocused();
  };
  return { swiping, pointers, press, macroOn };
}
