/** A small seeded generator (mulberry32): the same seed gives the same world on every machine. */
export interface Random {
  /** 0 ≤ x < 1 */
  next(): number;
  /** Both ends included. */
  int(from: number, to: number): number;
  pick<T>(list: readonly T[]): T;
  chance(share: number): boolean;
  /** Some of the list, in its order. */
  some<T>(list: readonly T[], count: number): T[];
}

export function seeded(seed: number): Random {
  let state = seed >>> 0;
  const next = () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  const int = (from: number, to: number) => from + Math.floor(next() * (to - from + 1));
  const pick = <T>(list: readonly T[]): T => list[int(0, list.length - 1)]!;
  const some = <T>(list: readonly T[], count: number): T[] => {
    const left = list.map((_, i) => i);
    const chosen = new Set<number>();
    while (chosen.size < Math.min(count, list.length)) chosen.add(left.splice(int(0, left.length - 1), 1)[0]!);
    return list.filter((_, i) => chosen.has(i));
  };
  return { next, int, pick, chance: (share) => next() < share, some };
}
