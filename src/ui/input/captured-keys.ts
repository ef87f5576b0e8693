import { useHeard } from "./heard";
import { isTyping } from "./keyboard";

/**
 * Keys that mean something of their own on a screen: they are taken before the frame, which has them for lists of
 * messages, gets to see them.
 * @param actOf what a key does; null leaves it to the frame
 */
export function useCapturedKeys(isOn: boolean, actOf: (event: KeyboardEvent) => (() => void) | null): void {
  const down = (event: KeyboardEvent) => {
    if (event.altKey || event.metaKey) return;
    const act = actOf(event);
    if (!act) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    act();
  };
  useHeard("keydown", down, { capture: true, isOn });
}

/** Del, outside of fields. Held down it is not meant for those that come into the place of what it deleted. */
export function useDeleteKey(act: (() => void) | null): void {
  useCapturedKeys(act !== null, ({ code, target, repeat }) =>
    code === "Delete" && !repeat && !isTyping(target) ? act : null,
  );
}
