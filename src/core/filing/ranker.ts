import type { FolderId } from "../id";
import { Counts, monthOf } from "./counts";
import { ALL, evidenceFor, WEIGHED, type Evidence, type Weighed } from "./evidence";
import { featuresOf, KINDS, type Feature, type FilingMail, type Kind } from "./features";
import { Reliability } from "./reliability";

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
/** What a kind is worth before anything was learned; kinds go together, so that each counts in part. */
const START: Partial<Record<Weighed, number>> = { answers: 1 };
const USUAL_START = 0.5;

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
  private readonly counts = new Counts();
  private readonly reliability = new Reliability();
  private readonly steps = Object.fromEntries(
    WEIGHED.map((kind) => [kind, Math.round((START[kind] ?? USUAL_START) * UNIT)]),
  ) as Record<Weighed, number>;
  /** Folders that are no more, and those they became part of. */
  private readonly moved = new Map<FolderId, FolderId | null>();

  private scored(features: readonly Feature[], { thread }: FilingMail, now: number): Scored {
    const evidence = evidenceFor(features, thread, this.counts, now);
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
      reasons: this.reasons(features, evidence, place),
    }));
  }

  private reasons(features: readonly Feature[], { folders, of }: Evidence, place: number): Reason[] {
    const worth = (kind: Weighed) => (this.steps[kind] / UNIT) * (of[kind]?.[place] ?? 0);
    // What is weighed apart is one reason to a person.
    return KINDS.map((kind) => ({
      kind,
      worth: worth(kind) + (kind === "sender" ? worth("lately") : kind === "thread" ? worth("answers") : 0),
    }))
      .filter((one) => one.worth > 0)
      .sort((a, b) => b.worth - a.worth)
      .slice(0, MOST_REASONS)
      .map(({ kind }) =>
        features
          .filter((feature) => feature.kind === kind)
          .map(({ key }): Reason => ({ kind, key, times: this.counts.times(key, folders[place]!) }))
          .reduce((a, b) => (b.times > a.times || b.key === `thread ${folders[place]!}` ? b : a)),
      );
  }

  /** Learns that a message was filed. @param atMs when */
  learn(mail: FilingMail, folder: FolderId, atMs: number): Receipt {
    const features = featuresOf(mail);
    const month = monthOf(atMs);
    const scored = this.scored(features, mail, month);
    const place = scored.evidence.folders.indexOf(folder);
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
    this.apply(receipt, 1);
    return receipt;
  }

  /** Takes back what a filing taught. */
  unlearn(receipt: Receipt): void {
    this.apply(receipt, -1);
  }

  private apply({ folder, month, keys, steps, bin, hit }: Receipt, by: 1 | -1): void {
    const now = this.whereNow(folder);
    if (now !== null) for (const key of keys) this.counts.add(key, now, month, by);
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

  private whereNow(folder: FolderId): FolderId | null {
    let now: FolderId | null = folder;
    while (now !== null && this.moved.has(now)) now = this.moved.get(now)!;
    return now;
  }

  /** A folder was put into another one, or removed. What was learned of it goes with it. */
  move(from: FolderId, into: FolderId | null): void {
    if (from === into || this.moved.has(from)) return;
    this.counts.move(from, into);
    this.moved.set(from, into);
  }

  /** All that was learned; the same twice is the same text. */
  toJSON(): unknown {
    return { counts: this.counts, reliability: this.reliability, steps: this.steps, moved: [...this.moved] };
  }
}
