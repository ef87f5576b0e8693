/**
 * Names that hold all the typed words, the likeliest first: a name that begins with them, then a segment or
 * word that does, then any part. Equal ones keep their order.
 */
export function findNames<T>(things: readonly T[], nameOf: (thing: T) => string, typed: string): T[] {
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return [...things];
  const scored = things.flatMap((thing, order) => {
    const name = nameOf(thing).toLowerCase();
    const ranks = words.map((word) => {
      if (name.startsWith(word)) return 0;
      const at = name.indexOf(word);
      if (at < 0) return Infinity;
      return /[^\p{L}\p{N}]/u.test(name[at - 1]!) || new RegExp(`[^\\p{L}\\p{N}]${escape(word)}`, "u").test(name)
        ? 1
        : 2;
    });
    const rank = Math.max(...ranks);
    return rank === Infinity ? [] : [{ thing, rank, order }];
  });
  return scored.sort((a, b) => a.rank - b.rank || a.order - b.order).map(({ thing }) => thing);
}

const escape = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
