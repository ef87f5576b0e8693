import { useSyncExternalStore } from "react";

/** @param most the widest screen that is narrow, px */
function narrowerThan(most: number): () => boolean {
  let asked: MediaQueryList | null = null;
  // Asked for once: it is looked at with every key.
  const query = () => (asked ??= window.matchMedia(`(max-width: ${most}px)`));
  const listen = (changed: () => void) => {
    query().addEventListener("change", changed);
    return () => query().removeEventListener("change", changed);
  };
  return () =>
    useSyncExternalStore(
      listen,
      () => query().matches,
      () => false,
    );
}

/** Whether the screen holds only one thing at a time, as on a phone. */
export const useNarrowScreen = narrowerThan(759);

/** Whether list and reader side by side leave no room for rows of one line, as on a tablet. */
export const useTightScreen = narrowerThan(1099);
