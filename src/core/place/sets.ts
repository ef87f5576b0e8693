import type { Colour } from "./colour";

export interface MarkerSet {
  readonly name: string;
  readonly markers: readonly (readonly [letter: string, colour: Colour, meaning: string])[];
}

/** Markers to begin with, by how people work. A person changes them as they like. */
export const MARKER_SETS: readonly MarkerSet[] = [
  {
    name: "what to do",
    markers: [
      ["R", "amber", "read closely"],
      ["L", "slate", "look into"],
      ["W", "plum", "waiting"],
      ["U", "brick", "urgent"],
    ],
  },
  {
    name: "how much it matters",
    markers: [
      ["A", "brick", "must, today"],
      ["B", "amber", "should, this week"],
      ["C", "slate", "could, some day"],
    ],
  },
  {
    name: "how far it is",
    markers: [
      ["N", "amber", "not begun"],
      ["H", "slate", "half done"],
      ["V", "plum", "to be checked"],
      ["E", "spruce", "finished"],
    ],
  },
];
