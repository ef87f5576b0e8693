import { useSyncExternalStore } from "react";

const PHONE = "(max-width: 759px)";

/** Whether the screen holds only one thing at a time, as on a phone. */
export function useNarrowScreen(): boolean {
  return useSyncExternalStore(
    (changed) => {
      const query = window.matchMedia(PHONE);
      query.addEventListener("change", changed);
      return () => query.removeEventListener("change", changed);
    },
    () => window.matchMedia(PHONE).matches,
    () => false,
  );
}
