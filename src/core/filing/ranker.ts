import type { FolderId } from "../id";
import { Counts, monthOf, type Sign, type StoredCounts } from "./counts";
import { ALL, WEIGHED, Witness, type Evidence, type Weighed } from "./evidence";
import { featuresOf, KINDS, type Feature, type FilingMail, type Kind } from "./features";
import { Reliability, type StoredReliability } from "./reliability";

/**
 * Learns where mail is filed. Each kind of evidence says for each folder how much likelier it is with it (naive Bayes);
 * what each kind is worth is learned by gradient steps on the logarithmic loss, in whole numbers. How sure a guess is,
 * is what guesses like it have turned out to be.
 */

/** Weights are kept in parts of this. */
const UNIT = 2 ** 20;
const RATE = 0.02;
const LARGEST_STEP = 0.1;
const MOST_GUESSES = 5;
const MOST_REASONS = 3;
/** The first guesses are shown with their reasons. */
const MOST_EXPLAINED = 3;
/** Evidence weaker than this, as a logarithm, is no reason. */
const LEAST_WORTH = 0.25;
/** Sums of the same come out apart by less than this where their order differs: what is that close is as strong. */
const AS_STRONG = 1e-9;
/** What a kind is worth before anything was learned; kinds go together, so that each counts in part. */
const START: Partial<Record<Weighed, number>> = { answers: 1 };
const USUAL_START = 0.5;

/** "sender" of "sender ines@larch.example" */
export const kindOf = (key: string): string => key.slice(0, Math.max(0, key.indexOf(" ")));

/** Kinds of which a single one tells a person something. */
const TELLING: ReadonlySet<string> = new Set<Kind>(["list", "sender", "domain", "via", "subject", "word", "file"]);

/** What one filing changed: with it the filing is unlearned, in any order, to the last bit. */
export interface Receipt {
  readonly folder: FolderId;
  readonly month: number;
  readonly keys: readonly string[];
  readonly steps: Readonly<Partial<Record<Weighed, number>>>;
  readonly bin: number | null;
  readonly hit: boolean;
}

export interface Reason {
  readonly kind: Kind;
  readonly key: string;
  /** How often it was filed there. */
  readonly times: number;
}

export interface Guess {
  readonly folder: FolderId;
  /** Between 0 and 1: of guesses like this so many were right. */
  readonly confidence: number;
  /** What spoke for it most, the strongest first. */
  readonly reasons: readonly Reason[];
}

/** How likely a folder seems, between 0 and 1. */
export interface Seemed {
  readonly probability: number;
  readonly reasons: () => readonly Reason[];
}

/** All that was learned, as it is kept. */
export interface StoredRanker {
  readonly counts: StoredCounts;
  readonly reliability: StoredReliability;
  readonly steps: Readonly<Record<Weighed, number>>;
}

interface Scored {
  readonly evidence: Evidence;
  /** By the folder's place in the evidence. */
  readonly probabilities: Float64Array;
  /** Places, the likeliest first; as many as are guessed. */
  readonly best: readonly number[];
}

function bestOf(probabilities: Float64Array, folders: readonly FolderId[]): number[] {
  const best: number[] = [];
  const before = (a: number, b: number) =>
    probabilities[a]! > probabilities[b]! || (probabilities[a] === probabilities[b] && folders[a]! < folders[b]!);
  for (let place = 0; place < probabilities.length; place++) {
    if (best.length === MOST_GUESSES && !before(place, best.at(-1)!)) continue;
    let at = best.length;
    while (at > 0 && before(place, best[at - 1]!)) at--;
    best.splice(at, 0, place);
    if (best.length > MOST_GUESSES) best.pop();
  }
  return best;
}

export class Ranker {
  private readonly witness: Witness;
  private reliability = new Reliability();
  private steps = Object.fromEntries(
    WEIGHED.map((kind) => [kind, Math.round((START[kind] ?? USUAL_START) * UNIT)]),
  ) as Record<Weighed, number>;

  constructor(private readonly counts = new Counts()) {
    this.witness = new Witness(counts);
  }

  /** @param stored what toJSON gave, read from its text; kept as its own */
  static from({ counts, reliability, steps }: StoredRanker): Ranker {
    const ranker = new Ranker(Counts.from(counts));
    ranker.reliability = Reliability.from(reliability);
    ranker.steps = { ...ranker.steps, ...steps };
    return ranker;
  }

  /** How many keys it holds. */
  get size(): number {
    return this.counts.size;
  }

  private scored(features: readonly Feature[], { thread }: FilingMail, now: number): Scored {
    const evidence = this.witness.evidence(features, thread, now);
    const probabilities = new Float64Array(evidence.folders.length);
    for (const kind of WEIGHED) {
      const sums = evidence.of[kind];
      const weight = this.steps[kind] / UNIT;
      if (sums) for (let place = 0; place < sums.length; place++) probabilities[place]! += weight * sums[place]!;
    }
    const most = probabilities.reduce((a, b) => Math.max(a, b), -Infinity);
    let all = 0;
    for (let place = 0; place < probabilities.length; place++)
      all += probabilities[place] = Math.exp(probabilities[place]! - most);
    for (let place = 0; place < probabilities.length; place++) probabilities[place]! /= all;
    return { evidence, probabilities, best: bestOf(probabilities, evidence.folders) };
  }

  /** The likeliest folders, the best first; none before anything was learned. @param nowMs when it is asked */
  rank(mail: FilingMail, nowMs: number): Guess[] {
    const features = featuresOf(mail);
    const now = monthOf(nowMs);
    const { evidence, probabilities, best } = this.scored(features, mail, now);
    if (best.length === 0) return [];
    const first = probabilities[best[0]!]!;
    const sure = this.reliability.of(first, now);
    return best.map((place, n) => ({
      folder: evidence.folders[place]!,
      // What guesses turned out to be is known of first guesses; the others share what is left as they stand.
      confidence: n === 0 ? sure : first >= 1 ? 0 : ((1 - sure) * probabilities[place]!) / (1 - first),
      reasons: n < MOST_EXPLAINED ? this.reasons(features, evidence, place) : [],
    }));
  }

  /**
   * How likely a folder seems by itself, before it is asked how often that was right; null before it was learned of.
   * Reasons cost as much as the rest, and are made when they are asked for.
   */
  seems(mail: FilingMail, folder: FolderId, nowMs: number): Seemed | null {
    const features = featuresOf(mail);
    const { evidence, probabilities } = this.scored(features, mail, monthOf(nowMs));
    const place = evidence.folders.indexOf(folder);
    if (place < 0) return null;
    return { probability: probabilities[place]!, reasons: () => this.reasons(features, evidence, place) };
  }

  /** What of some features tells most for a folder: how much likelier they are there than elsewhere. */
  private telling(features: readonly Feature[], folder: FolderId): Reason {
    const all = this.counts.total(ALL);
    const here = this.counts.times(ALL, folder);
    const told = features.map(({ kind, key }) => {
      const times = this.counts.times(key, folder);
      const worth = Math.log1p((times * all) / here) - Math.log1p(this.counts.total(key));
      // That the thread is there says it best.
      return { kind, key, times, worth: key === `thread ${folder}` ? Infinity : worth };
    });
    const { kind, key, times } = told.reduce((a, b) => (b.worth > a.worth ? b : a));
    return { kind, key, times };
  }

  private reasons(features: readonly Feature[], { folders, of }: Evidence, place: number): Reason[] {
    // Against what it says of folders on the whole: what speaks for all of them speaks for none.
    const worth = (kind: Weighed): number => {
      const sums = of[kind];
      if (!sums) return 0;
      const apart = (this.steps[kind] / UNIT) * (sums[place]! - sums.reduce((a, b) => a + b) / sums.length);
      return Math.round(apart / AS_STRONG) * AS_STRONG;
    };
    // What is weighed apart is one reason to a person.
    return KINDS.map((kind) => ({
      kind,
      worth: worth(kind) + (kind === "sender" ? worth("lately") : kind === "thread" ? worth("answers") : 0),
    }))
      .filter((one) => one.worth > LEAST_WORTH)
      .sort((a, b) => b.worth - a.worth)
      .slice(0, MOST_REASONS)
      .map(({ kind }) =>
        this.telling(
          features.filter((feature) => feature.kind === kind),
          folders[place]!,
        ),
      )
      .filter(({ kind, times }) => times > 0 || kind === "thread");
  }

  /** Learns that a message was filed. @param atMs when */
  learn = (mail: FilingMail, folder: FolderId, atMs: number): Receipt =>
    this.learnAndTell(mail, folder, folder, atMs).receipt;

  /** The same, telling how likely another folder seemed before; null before it was learned of. */
  learnAndTell(
    mail: FilingMail,
    folder: FolderId,
    of: FolderId,
    atMs: number,
  ): { readonly receipt: Receipt; readonly seemed: number | null } {
    const features = featuresOf(mail);
    const month = monthOf(atMs);
    const scored = this.scored(features, mail, month);
    const { folders } = scored.evidence;
    const place = folders.indexOf(folder);
    const [first] = scored.best;
    const receipt: Receipt = {
      folder,
      month,
      keys: [ALL, ...features.map(({ key }) => key)],
      // Of a folder that nothing has been filed into yet, no evidence could have told.
      steps: place < 0 ? {} : this.gradient(scored, place),
      bin: first === undefined ? null : Reliability.binOf(scored.probabilities[first]!),
      hit: first !== undefined && first === place,
    };
    const seemed = scored.probabilities[folders.indexOf(of)] ?? null;
    this.apply(receipt, 1);
    return { receipt, seemed };
  }

  /** Learns again what was learned elsewhere. */
  relearn(receipt: Receipt): void {
    this.apply(receipt, 1);
  }

  /** Takes back what a filing taught. */
  unlearn(receipt: Receipt): void {
    this.apply(receipt, -1);
  }

  private apply({ folder, month, keys, steps, bin, hit }: Receipt, by: 1 | -1): void {
    for (const key of keys) this.counts.add(key, folder, month, by);
    for (const kind of WEIGHED) this.steps[kind] += by * (steps[kind] ?? 0);
    if (bin !== null) this.reliability.add(bin, hit, month, by);
  }

  private gradient({ evidence, probabilities }: Scored, right: number): Receipt["steps"] {
    const steps: Partial<Record<Weighed, number>> = {};
    for (const kind of WEIGHED) {
      const sums = evidence.of[kind];
      if (!sums) continue;
      let slope = sums[right]!;
      for (let place = 0; place < sums.length; place++) slope -= probabilities[place]! * sums[place]!;
      const whole = Math.round(Math.max(-LARGEST_STEP, Math.min(LARGEST_STEP, RATE * slope)) * UNIT);
      if (whole !== 0) steps[kind] = whole;
    }
    return steps;
  }

  /** All that was learned; the same twice is the same text. */
  toJSON(): StoredRanker {
    const { counts, reliability, steps } = this;
    return { counts: counts.toJSON(), reliability: reliability.toJSON(), steps };
  }

  /** What is found in a folder, of kinds a person can make sense of: first what is often there and seldom elsewhere. */
  signs(folder: FolderId, most: number): Sign[] {
    const share = this.counts.times(ALL, folder) / this.counts.total(ALL);
    const worth = ({ key, times }: Sign) => times * Math.log(times / this.counts.total(key) / share);
    return this.counts
      .signs(folder)
      .filter(({ key }) => TELLING.has(kindOf(key)))
      .map((sign) => ({ sign, worth: worth(sign) }))
      .sort((a, b) => b.worth - a.worth)
      .slice(0, most)
      .map(({ sign }) => sign);
  }

  /** How many messages in a folder have taught that they belong there. */
  learned = (folder: FolderId): number => this.counts.times(ALL, folder);
}
