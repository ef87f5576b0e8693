import { useSyncExternalStore } from "react";

export type Theme = "day" | "night";

const current = (): Theme => (document.documentElement.dataset.theme === "night" ? "night" : "day");

/** It changes by the switch, by another window's, and with the machine's own day and night. */
function follow(changed: () => void): () => void {
  const observer = new MutationObserver(changed);
  observer.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
  return () => observer.disconnect();
}

/** Which of the two is shown. */
export const useTheme = (): Theme => useSyncExternalStore<Theme>(follow, current, () => "day");
