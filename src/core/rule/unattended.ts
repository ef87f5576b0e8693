import type { Abilities } from "../macro";

/** When a rule is done: to mail as it comes in, or to a letter as it is queued. */
export const RULE_TIMES = ["arrival", "sending"] as const;
export type RuleTime = (typeof RULE_TIMES)[number];

/** Why a macro cannot be done with nobody there, in words; null where it can. */
export function whyAttended({ asks, confirms, writes, sends }: Abilities, time: RuleTime = "arrival"): string | null {
  if (asks) return "It asks, and nobody is there to answer.";
  if (confirms) return "It cannot be undone, and nobody is there to agree.";
  if (sends && time === "sending") return "It sends a letter, and would for that letter too.";
  return writes ? "A letter of it is for you to write." : null;
}
