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

/** So many features are kept at most. */
const MOST_KEPT = 50_000;

/** What counts say, as long as they are as they are and it is that month. */
interface Known {
  readonly version: number;
  readonly now: number;
  readonly folders: readonly FolderId[];
  /** Where mail goes anyway, by the folder's place. */
  readonly priors: readonly number[];
  readonly places: ReadonlyMap<FolderId, number>;
  readonly total: number;
  readonly slow: Map<string, Told | null>;
  readonly fast: Map<string, Told | null>;
}

function knownOf(counts: Counts, now: number): Known {
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
  return { version: counts.version, now, folders, priors, places, total, slow: new Map(), fast: new Map() };
}

/**
 * Reads evidence out of counts. What a feature says is kept until something is learned or a month is over: the same
 * words come again in most messages that are asked about at once.
 */
export class Witness {
  private known: Known | null = null;

  constructor(private readonly counts: Counts) {}

  private lookFrom(now: number): Known {
    const { known } = this;
    if (known?.version === this.counts.version && known.now === now && known.slow.size < MOST_KEPT) return known;
    return (this.known = knownOf(this.counts, now));
  }

  private told(key: string, fading: Fading, { now, places, priors, total, slow, fast }: Known): Told | null {
    const kept = fading === FAST ? fast : slow;
    const before = kept.get(key);
    if (before !== undefined) return before;
    const at: number[] = [];
    const more: number[] = [];
    let sum = 0;
    let most = -Infinity;
    this.counts.each(key, now, fading, (folder, weight) => {
      const place = places.get(folder)!;
      // log((c/p + w) / (s + w)), of which log(w / (s + w)) is what folders without the feature have too.
      const worth = Math.log1p((weight * total) / (priors[place]! * PRIOR_WEIGHT));
      at.push(place);
      more.push(worth);
      sum += weight;
      if (worth > most) most = worth;
    });
    const told =
      at.length === 0 ? null : { folders: at, more, most: most + Math.log(PRIOR_WEIGHT / (sum + PRIOR_WEIGHT)) };
    kept.set(key, told);
    return told;
  }

  /** @param thread where earlier messages of the thread are @param now the month it is */
  evidence(features: readonly Feature[], thread: readonly FolderId[], now: number): Evidence {
    const known = this.lookFrom(now);
    const { folders, priors, places, total } = known;
    const of: Partial<Record<Weighed, Float64Array>> = {
      prior: Float64Array.from(priors, (prior) => Math.log(prior / total)),
    };
    const there = thread.flatMap((folder) => places.get(folder) ?? []);
    if (there.length > 0) {
      of.answers = new Float64Array(folders.length);
      for (const place of there) of.answers[place] = ANSWERS;
    }
    const keys = new Map<string, string[]>();
    for (const { kind, key } of features) {
      if (kind in MOST_TELLING && isCommon(this.counts.spread(key), folders.length)) continue;
      const some = keys.get(kind);
      if (some) some.push(key);
      else keys.set(kind, [key]);
    }
    for (const kind of WEIGHED) {
      const meant = keys.get(kind === "lately" ? "sender" : kind);
      if (!meant) continue;
      const fading = kind === "lately" ? FAST : SLOWLY;
      const some = meant.map((key) => this.told(key, fading, known)).filter((one) => one !== null);
      if (some.length === 0) continue;
      const sums = (of[kind] = new Float64Array(folders.length));
      const most = MOST_TELLING[kind as Kind] ?? Infinity;
      if (some.length > most) some.sort((a, b) => b.most - a.most).length = most;
      for (const { folders: at, more } of some) for (let i = 0; i < at.length; i++) sums[at[i]!]! += more[i]!;
    }
    return { folders, of };
  }
}
