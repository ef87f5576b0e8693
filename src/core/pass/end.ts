import type { Deed } from "./progress";

/** What a pass came to. */
export interface PassEnd {
  /** Macros by how many messages each decided, the most first. */
  readonly macros: readonly { readonly name: string; readonly count: number }[];
  /** Milliseconds a decision took, half of them less; null where nothing was decided. */
  readonly median: number | null;
  readonly slowest: Deed | null;
}

/** The last deed of each message tells what became of it; the time that all of them took is what it took. */
export function endOf(deeds: Iterable<Deed>): PassEnd {
  const last = new Map<number, Deed>();
  for (const deed of deeds) {
    const before = last.get(deed.message);
    const ms = deed.ms + (before?.ms ?? 0);
    last.set(deed.message, before && before.at > deed.at ? { ...before, ms } : { ...deed, ms });
  }
  const counts = new Map<string, number>();
  for (const { macro } of last.values()) counts.set(macro, (counts.get(macro) ?? 0) + 1);
  const byTime = [...last.values()].sort((a, b) => a.ms - b.ms);
  const middle = byTime.length >> 1;
  const median =
    byTime.length === 0
      ? null
      : byTime.length % 2 === 1
        ? byTime[middle]!.ms
        : (byTime[middle - 1]!.ms + byTime[middle]!.ms) / 2;
  return {
    macros: [...counts]
      .map(([name, count]) => ({ name, count }))
      .sort((a, b) => b.count - a.count || (a.name < b.name ? -1 : 1)),
    median,
    slowest: byTime.at(-1) ?? null,
  };
}
