import type { Colour } from "@/core/place";

/** Solid blocks of colour, by name: written out so that the style sheet has them. */
export const TONE: Record<Colour, string> = {
  spruce: "bg-spruce text-sheet",
  amber: "bg-amber text-sheet",
  brick: "bg-brick text-sheet",
  slate: "bg-slate text-sheet",
  plum: "bg-plum text-sheet",
};

export const SOFT: Record<Colour, string> = {
  spruce: "bg-spruce-soft",
  amber: "bg-amber-soft",
  brick: "bg-brick-soft",
  slate: "bg-slate-soft",
  plum: "bg-plum-soft",
};
