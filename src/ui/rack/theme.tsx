"use client";
import { useTheme, type Theme } from "../parts/use-theme";
import { THEME_KEY } from "./theme-script";

function choose(theme: Theme): void {
  document.documentElement.dataset.theme = theme;
  localStorage.setItem(THEME_KEY, theme);
}

export function ThemeSwitch() {
  const other = useTheme() === "day" ? "night" : "day";
  return (
    <button type="button" onClick={() => choose(other)} className="rounded-sm px-1.5 py-1 text-left hover:bg-paper">
      {other === "night" ? "By night" : "By day"}
    </button>
  );
}
