import { useEffect, useRef } from "react";
import { isTyping } from "./keyboard";

/**
 * Keys that mean something of their own on a screen: they are taken before the frame, which has them for lists of
 * messages, gets to see them.
 * @param actOf what a key does; null leaves it to the frame
 */
export function useCapturedKeys(isOn: boolean, actOf: (event: KeyboardEvent) => (() => void) | null): void {
  const latest = useRef(actOf);
  useEffect(() => {
    latest.current = actOf;
  });
  useEffect(() => {
    const down = (event: KeyboardEvent) => {
      if (!isOn || event.altKey || event.metaKey) return;
      const act = latest.current(event);
      if (!act) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      act();
    };
    window.addEventListener("keydown", down, true);
    return () => window.removeEventListener("keydown", down, true);
  }, [isOn]);
}

/** Del, outside of fields. Held down it is not meant for those that come into the place of what it deleted. */
export function useDeleteKey(act: (() => void) | null): void {
  useCapturedKeys(act !== null, ({ code, target, repeat }) =>
    code === "Delete" && !repeat && !isTyping(target) ? act : null,
  );
}
