import { skipText } from "@/core/macro";
import { countText } from "../parts/words";

/** Why messages were left alone, in words. */
const REASON_TEXT: Readonly<Record<string, string>> = {
  ...skipText,
  gone: "it is deleted since",
  sent: "it has been sent",
  "changed-elsewhere": "something else has changed it since",
};

export const reasonText = (reason: string): string => REASON_TEXT[reason] ?? reason;

/** "2 left alone: it is so already; 1: no folder can be guessed for it" */
export function reasonsText(reasons: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const reason of reasons) counts.set(reason, (counts.get(reason) ?? 0) + 1);
  return [...counts]
    .sort((a, b) => b[1] - a[1])
    .map(([reason, count], i) => `${countText(count)}${i === 0 ? " left alone" : ""}: ${reasonText(reason)}`)
    .join("; ");
}
