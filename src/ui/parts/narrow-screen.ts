import { useSyncExternalStore } from "react";

let asked: MediaQueryList | null = null;
/** Asked for once: it is looked at with every key. */
const phone = (): MediaQueryList => (asked ??= window.matchMedia("(max-width: 759px)"));

function listen(changed: () => void): () => void {
  const query = phone();
  query.addEventListener("change", changed);
  return () => query.removeEventListener("change", changed);
}

/** Whether the screen holds only one thing at a time, as on a phone. */
export const useNarrowScreen = (): boolean =>
  useSyncExternalStore(
    listen,
    () => phone().matches,
    () => false,
  );
