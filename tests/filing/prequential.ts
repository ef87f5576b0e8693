import { performance } from "node:perf_hooks";
import type { Habits } from "./habits";
import type { Method } from "./methods";

/** First guess, then learn: each message is guessed by what was filed before it (Dawid 1984). */

export interface Score {
  readonly top1: number;
  readonly top3: number;
  readonly top5: number;
  /** The largest share of messages, the surest first, of which 90 % are right. */
  readonly coverage: number;
  /** Mean distance between how sure guesses were and how often they were right, in ten bins (Naeini et al. 2015). */
  readonly ece: number;
  /** Microseconds a message, guessing and learning. */
  readonly us: number;
}

const BINS = 10;

/** @param from the share of the mailbox from which on it counts: before, next to nothing is known */
export function prequential({ filed }: Habits, method: Method, from = 0.1): Score {
  const first = Math.floor(filed.length * from);
  const guesses: { readonly sure: number; readonly right: boolean }[] = [];
  let [top3, top5] = [0, 0];
  const start = performance.now();
  filed.forEach(({ mail, folder, atMs }, n) => {
    const ranked = method.rank(mail, atMs);
    if (n >= first) {
      const place = ranked.findIndex((said) => said.folder === folder);
      guesses.push({ sure: ranked[0]?.confidence ?? 0, right: place === 0 });
      if (place >= 0 && place < 3) top3++;
      if (place >= 0 && place < 5) top5++;
    }
    method.learn(mail, folder, atMs);
  });
  const us = (1000 * (performance.now() - start)) / filed.length;
  const all = guesses.length;
  const right = guesses.filter((guess) => guess.right).length;
  let [covered, hits] = [0, 0];
  [...guesses]
    .sort((a, b) => b.sure - a.sure)
    .forEach((guess, i) => {
      if (guess.right) hits++;
      if (hits / (i + 1) >= 0.9) covered = i + 1;
    });
  const bins = Array.from({ length: BINS }, () => ({ sure: 0, right: 0, count: 0 }));
  for (const { sure, right: is } of guesses) {
    const bin = bins[Math.min(BINS - 1, Math.floor(sure * BINS))]!;
    bin.sure += sure;
    bin.right += Number(is);
    bin.count++;
  }
  const ece = bins.reduce((sum, bin) => sum + Math.abs(bin.sure - bin.right), 0) / all;
  return { top1: right / all, top3: top3 / all, top5: top5 / all, coverage: covered / all, ece, us };
}
