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

export class Counts {
  private readonly keys = new Map<string, Map<FolderId, Filings>>();

  /** @param by how often more; negative to unlearn */
  add(key: string, folder: FolderId, month: number, by: number): void {
    let folders = this.keys.get(key);
    if (!folders) this.keys.set(key, (folders = new Map()));
    let filings = folders.get(folder);
    if (!filings) folders.set(folder, (filings = []));
    let at = 0;
    while (at < filings.length && filings[at] !== month) at += 2;
    if (at === filings.length) filings.push(month, by);
    else if ((filings[at + 1]! += by) === 0) filings.splice(at, 2);
    if (filings.length === 0) folders.delete(folder);
    if (folders.size === 0) this.keys.delete(key);
  }

  /** How much a key speaks for each folder it was met in, seen from a month. */
  each(key: string, now: number, fading: Fading, take: (folder: FolderId, weight: number) => void): void {
    const folders = this.keys.get(key);
    if (!folders) return;
    for (const [folder, filings] of folders) {
      let weight = 0;
      for (let at = 0; at < filings.length; at += 2) weight += filings[at + 1]! * fading.of(now - filings[at]!);
      take(folder, weight);
    }
  }

  /** In how many folders a key was met. */
  spread = (key: string): number => this.keys.get(key)?.size ?? 0;

  /** How often it was counted in all, without forgetting. */
  times(key: string, folder: FolderId): number {
    const filings = this.keys.get(key)?.get(folder) ?? [];
    let sum = 0;
    for (let at = 1; at < filings.length; at += 2) sum += filings[at]!;
    return sum;
  }

  /** How often it was counted, wherever. */
  total(key: string): number {
    let sum = 0;
    for (const folder of this.keys.get(key)?.keys() ?? []) sum += this.times(key, folder);
    return sum;
  }

  /** What was met in a folder most often, with how often. */
  signs(folder: FolderId): Sign[] {
    const signs: Sign[] = [];
    for (const [key, folders] of this.keys)
      if (folders.has(folder)) signs.push({ key, times: this.times(key, folder) });
    return signs.sort((a, b) => b.times - a.times || (a.key < b.key ? -1 : 1));
  }

  /** A folder that became part of another one, or that is no more. */
  move(from: FolderId, into: FolderId | null): void {
    for (const [key, folders] of [...this.keys]) {
      const filings = folders.get(from);
      if (!filings) continue;
      folders.delete(from);
      if (folders.size === 0) this.keys.delete(key);
      if (into !== null)
        for (let at = 0; at < filings.length; at += 2) this.add(key, into, filings[at]!, filings[at + 1]!);
    }
  }

  /** @param stored what toJSON gave */
  static from(stored: StoredCounts): Counts {
    const counts = new Counts();
    for (const [key, folders] of stored)
      counts.keys.set(key, new Map(folders.map(([folder, months]) => [folder, months.flat()])));
    return counts;
  }

  /** All of it, in an order of its own: the same counts are the same text. */
  toJSON(): StoredCounts {
    const inOrder = <K extends string | number, V>(pairs: Iterable<readonly [K, V]>) =>
      [...pairs].sort(([a], [b]) => (a < b ? -1 : 1));
    const months = (filings: Filings) =>
      inOrder(Array.from({ length: filings.length / 2 }, (_, i) => [filings[2 * i]!, filings[2 * i + 1]!] as const));
    return inOrder(this.keys).map(([key, folders]) => [
      key,
      inOrder(folders).map(([folder, filings]) => [folder, months(filings)]),
    ]);
  }
}
