import { reads } from "./reads";
import { set, view } from "./store";

/** Whether the server answers, and of when what is shown is while it does not. */

/** The server answers, or does not any more. @param why it stores nothing, where it is there and says so */
export function noteLink(link: "here" | "away", why: string | null = null): void {
  const now = view();
  if (now.link === link && now.awayWhy === why) return;
  set({ link, awayWhy: why, asOf: link === "away" ? (now.asOf ?? Date.now()) : null });
  // What was shown meanwhile may have come from what the browser kept.
  if (link === "here") void reads.invalidateQueries();
}

/** What is shown was kept in the browser. @param at when it was so, milliseconds since 1970 */
export function noteKept(at: number): void {
  set({ link: "away", asOf: Math.max(at, view().asOf ?? 0) });
}
