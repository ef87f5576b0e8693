import { useEffect, useEffectEvent } from "react";

interface Options {
  /** Before whatever is in the page hears of it. */
  readonly capture?: boolean;
  readonly isOn?: boolean;
}

/**
 * Hears what happens to the window, as the part of the screen is drawn at that moment. It begins to listen once:
 * drawing anew may fall between two listeners of one event, and who began to listen again then would not be called.
 */
export function useHeard<K extends keyof WindowEventMap>(
  type: K,
  act: (event: WindowEventMap[K]) => void,
  { capture = false, isOn = true }: Options = {},
): void {
  const heard = useEffectEvent(act);
  useEffect(() => {
    if (!isOn) return;
    const hear = (event: WindowEventMap[K]) => heard(event);
    window.addEventListener(type, hear, capture);
    return () => window.removeEventListener(type, hear, capture);
  }, [type, capture, isOn]);
}
