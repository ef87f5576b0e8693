import type { FolderId } from "../id";

/**
 * How often what was filed where, in whole numbers by month, so that what is taken back leaves nothing behind and
 * what is long ago weighs less.
 */

const MONTH_MS = 30 * 86_400_000;

export const monthOf = (ms: number): number => Math.floor(ms / MONTH_MS);

/** After how many months a filing counts half. */
export class Fading {
  private readonly weights: number[] = [];
  constructor(private readonly halfLife: number) {}

  /** What a filing of some months ago counts; later ones count whole. */
  of(age: number): number {
    if (age <= 0) return 1;
    return (this.weights[age] ??= 2 ** (-age / this.halfLife));
  }
}

/** Filings into one folder: month and count by turns. */
type Filings = number[];

/** Where one key was met, and how often in all. */
interface Met {
  readonly folders: Map<FolderId, Filings>;
  total: number;
}

/** By key, by folder: months with their counts. */
export type StoredCounts = readonly (readonly [
  key: string,
  folders: readonly (readonly [folder: FolderId, months: readonly (readonly [month: number, count: number])[]])[],
])[];

/** "sender ines@larch.example", and how often it was filed. */
export interface Sign {
  readonly key: string;
  readonly times: number;
}

const timesOf = (filings: Filings): number => {
  let sum = 0;
  for (let at = 1; at < filings.length; at += 2) sum += filings[at]!;
  return sum;
};

export class Counts {
  private readonly keys = new Map<string, Met>();
  /** Another one after every change. */
  version = 0;

  /** @param by how often more; negative to unlearn */
  add(key: string, folder: FolderId, month: number, by: number): void {
    this.version++;
    let met = this.keys.get(key);
    if (!met) this.keys.set(key, (met = { folders: new Map(), total: 0 }));
    met.total += by;
    let filings = met.folders.get(folder);
    if (!filings) met.folders.set(folder, (filings = []));
    let at = 0;
    while (at < filings.length && filings[at] !== month) at += 2;
    if (at === filings.length) filings.push(month, by);
    else if ((filings[at + 1]! += by) === 0) filings.splice(at, 2);
    if (filings.length === 0) met.folders.delete(folder);
    if (met.folders.size === 0) this.keys.delete(key);
  }

  /** How much a key speaks for each folder it was met in, seen from a month. */
  each(key: string, now: number, fading: Fading, take: (folder: FolderId, weight: number) => void): void {
    const met = this.keys.get(key);
    if (!met) return;
    for (const [folder, filings] of met.folders) {
      let weight = 0;
      for (let at = 0; at < filings.length; at += 2) weight += filings[at + 1]! * fading.of(now - filings[at]!);
      take(folder, weight);
    }
  }

  /** How many keys were met. */
  get size(): number {
    return this.keys.size;
  }

  /** In how many folders a key was met. */
  spread = (key: string): number => this.keys.get(key)?.folders.size ?? 0;

  /** How often it was counted in all, without forgetting. */
  times = (key: string, folder: FolderId): number => timesOf(this.keys.get(key)?.folders.get(folder) ?? []);

  /** How often it was counted, wherever. */
  total = (key: string): number => this.keys.get(key)?.total ?? 0;

  /** What was met in a folder most often, with how often. */
  signs(folder: FolderId): Sign[] {
    const signs: Sign[] = [];
    for (const [key, { folders }] of this.keys) {
      const filings = folders.get(folder);
      if (filings) signs.push({ key, times: timesOf(filings) });
    }
    return signs.sort((a, b) => b.times - a.times || (a.key < b.key ? -1 : 1));
  }

  /** @param stored what toJSON gave */
  static from(stored: StoredCounts): Counts {
    const counts = new Counts();
    for (const [key, stays] of stored) {
      const folders = new Map(stays.map(([folder, months]) => [folder, months.flat()]));
      counts.keys.set(key, { folders, total: [...folders.values()].reduce((sum, one) => sum + timesOf(one), 0) });
    }
    return counts;
  }

  /** All of it, in an order of its own: the same counts are the same text. */
  toJSON(): StoredCounts {
    const inOrder = <K extends string | number, V>(pairs: Iterable<readonly [K, V]>) =>
      [...pairs].sort(([a], [b]) => (a < b ? -1 : 1));
    const months = (filings: Filings) =>
      inOrder(Array.from({ length: filings.length / 2 }, (_, i) => [filings[2 * i]!, filings[2 * i + 1]!] as const));
    return inOrder(this.keys).map(([key, { folders }]) => [
      key,
      inOrder(folders).map(([folder, filings]) => [folder, months(filings)]),
    ]);
  }
}
