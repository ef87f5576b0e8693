export const COLOURS = ["spruce", "amber", "brick", "slate", "plum"] as const;
export type Colour = (typeof COLOURS)[number];
