import { useEffect, useEffectEvent, type RefObject } from "react";
import { view } from "../state/store";

/**
 * Keys of a part of the screen that are pressed where the focus is not in it. A button that was pressed may be gone, and
 * the focus with it: then keys are still those of the part it was in.
 * @param onLost a key that is meant for the part
 * @param onOutside a key that is pressed elsewhere
 */
export function useKeysOf(
  box: RefObject<HTMLElement | null>,
  onLost: (event: KeyboardEvent) => void,
  onOutside: (event: KeyboardEvent) => void,
): void {
  const lost = useEffectEvent(onLost);
  const outside = useEffectEvent(onOutside);
  useEffect(() => {
    const isIn = (target: EventTarget | null) => target instanceof Node && Boolean(box.current?.contains(target));
    let wasIn = isIn(document.activeElement);
    const look = ({ target }: Event) => void (wasIn = isIn(target));
    const down = (event: KeyboardEvent) => {
      if (!(event.target instanceof Element) || isIn(event.target) || view().dialog !== null) return;
      if (wasIn && event.target === document.body) lost(event);
      else outside(event);
    };
    for (const name of ["focusin", "pointerdown"]) window.addEventListener(name, look);
    window.addEventListener("keydown", down);
    return () => {
      for (const name of ["focusin", "pointerdown"]) window.removeEventListener(name, look);
      window.removeEventListener("keydown", down);
    };
  }, [box]);
}
