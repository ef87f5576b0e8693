"use client";
import { useSyncExternalStore } from "react";
import { THEME_KEY } from "./theme-script";

type Theme = "day" | "night";

const listeners = new Set<() => void>();
const current = (): Theme => (document.documentElement.dataset.theme === "night" ? "night" : "day");

function choose(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(THEME_KEY, theme);
  for (const listener of listeners) listener();
}

export function ThemeSwitch() {
  const theme = useSyncExternalStore<Theme>(
    (changed) => {
      listeners.add(changed);
      return () => listeners.delete(changed);
    },
    current,
    () => "day",
  );
  const other = theme === "day" ? "night" : "day";
  return (
    <button type="button" onClick={() => choose(other)} className="rounded-sm px-1.5 py-1 text-left hover:bg-paper">
      {other === "night" ? "By night" : "By day"}
    </button>
  );
}
