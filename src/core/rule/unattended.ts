import type { Abilities } from "../macro";

/** Why a macro cannot be done with nobody there, in words; null where it can. */
export function whyAttended({ asks, confirms, writes }: Abilities): string | null {
  if (asks) return "It asks, and nobody is there to answer.";
  if (confirms) return "It cannot be undone, and nobody is there to agree.";
  return writes ? "A letter of it is for you to write." : null;
}
