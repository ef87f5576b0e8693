import type { FolderId } from "../id";
import { Fading, type Counts } from "./counts";
import type { Feature, Kind } from "./features";

/**
 * What speaks for which folder: for each kind of evidence, the logarithm of how much likelier each folder is with it
 * than without.
 */

/** Under it every filing is counted. */
export const ALL = "all";
/** What is known of a feature before anything is: as if it had been met so often where mail goes anyway. */
const PRIOR_WEIGHT = 1;
const SLOWLY = new Fading(4);
const FAST = new Fading(0.6);
/** Of words, those that tell most count. */
const MOST_TELLING: Partial<Record<Kind, number>> = { subject: 6, word: 10, with: 3 };

/** A word that is met in so many folders, and in more than this share of them, tells little and costs most. */
const COMMON = 24;
const COMMON_SHARE = 0.3;

/**
 * Kinds as they are weighed: how often mail goes to a folder anyway; that its thread is there, which tells the same of
 * any folder; where a sender's mail went lately.
 */
export const WEIGHED = [
  "prior",
  "answers",
  "thread",
  "list",
  "sender",
  "lately",
  "domain",
  "with",
  "via",
  "subject",
  "word",
  "file",
  "figure",
  "time",
] as const satisfies readonly (Kind | "prior" | "answers" | "lately")[];
export type Weighed = (typeof WEIGHED)[number];

/** A feature's word for each of some folders; the others have one word in common. */
interface Told {
  readonly folders: readonly number[];
  /** Above the common word. */
  readonly more: readonly number[];
  readonly most: number;
}

export interface Evidence {
  /** Those that anything was filed into. */
  readonly folders: readonly FolderId[];
  /** For each kind, for each folder by its place; what all folders have in common is left out. */
  readonly of: Readonly<Partial<Record<Weighed, Float64Array>>>;
}

/** How much likelier the folder of a thread is than others, as a logarithm, before its weight is learned. */
const ANSWERS = 3;

const isCommon = (spread: number, all: number): boolean => spread > COMMON && spread > COMMON_SHARE * all;

/** @param thread where earlier messages of the thread are @param now the month it is */
export function evidenceFor(
  features: readonly Feature[],
  thread: readonly FolderId[],
  counts: Counts,
  now: number,
): Evidence {
  const folders: FolderId[] = [];
  const priors: number[] = [];
  const places = new Map<FolderId, number>();
  let total = 0;
  counts.each(ALL, now, SLOWLY, (folder, weight) => {
    places.set(folder, folders.length);
    folders.push(folder);
    priors.push(weight);
    total += weight;
  });
  const told = (key: string, fading: Fading): Told | null => {
    const at: number[] = [];
    const weights: number[] = [];
    let sum = 0;
    counts.each(key, now, fading, (folder, weight) => {
      at.push(places.get(folder)!);
      weights.push(weight);
      sum += weight;
    });
    if (at.length === 0) return null;
    // log((c/p + w) / (s + w)), of which log(w / (s + w)) is what folders without the feature have too.
    const more = weights.map((weight, i) => Math.log1p((weight * total) / (priors[at[i]!]! * PRIOR_WEIGHT)));
    return { folders: at, more, most: Math.max(...more) + Math.log(PRIOR_WEIGHT / (sum + PRIOR_WEIGHT)) };
  };
  const of: Partial<Record<Weighed, Float64Array>> = {
    prior: Float64Array.from(priors, (prior) => Math.log(prior / total)),
  };
  const there = thread.flatMap((folder) => places.get(folder) ?? []);
  if (there.length > 0) {
    of.answers = new Float64Array(folders.length);
    for (const place of there) of.answers[place] = ANSWERS;
  }
  const add = (kind: Weighed, all: readonly (Told | null)[]) => {
    const some = all.filter((one) => one !== null);
    if (some.length === 0) return;
    const sums = (of[kind] = new Float64Array(folders.length));
    const most = MOST_TELLING[kind as Kind] ?? Infinity;
    if (some.length > most) some.sort((a, b) => b.most - a.most).length = most;
    for (const { folders: at, more } of some) for (let i = 0; i < at.length; i++) sums[at[i]!]! += more[i]!;
  };
  for (const kind of WEIGHED) {
    if (kind === "prior" || kind === "answers") continue;
    const meant = kind === "lately" ? "sender" : kind;
    const isWords = kind in MOST_TELLING;
    const keys = features
      .filter(({ kind: one, key }) => one === meant && !(isWords && isCommon(counts.spread(key), folders.length)))
      .map(({ key }) => key);
    add(
      kind,
      keys.map((key) => told(key, kind === "lately" ? FAST : SLOWLY)),
    );
  }
  return { folders, of };
}
