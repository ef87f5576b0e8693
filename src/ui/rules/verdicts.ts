import type { Verdict } from "@/core/rule";

/** In words, as the table's heads have it; shades and outlines tell them apart where colours do not. */
export const VERDICT_TEXT: Readonly<Record<Verdict, string>> = {
  agrees: "as you did",
  differs: "otherwise than you",
  nothing: "you left it",
};
export const FILLS: Readonly<Record<Verdict, string>> = {
  agrees: "var(--spruce)",
  differs: "var(--amber-soft)",
  nothing: "var(--well)",
};
