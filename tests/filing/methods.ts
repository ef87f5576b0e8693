import { featuresOf, Ranker, type FilingMail } from "@/core/filing";
import type { FolderId } from "@/core/id";

/** Ways to guess, the app's own among simpler ones. */

export interface Said {
  readonly folder: FolderId;
  readonly confidence: number;
}
export interface Method {
  readonly name: string;
  readonly rank: (mail: FilingMail, nowMs: number) => readonly Said[];
  readonly learn: (mail: FilingMail, folder: FolderId, nowMs: number) => void;
}

/** Where the sender's last mail went; the share of its mail that went there is how sure it is. */
export function lastFolder(): Method {
  const last = new Map<string, FolderId[]>();
  return {
    name: "the sender's last folder",
    rank: ({ from }) => {
      const folders = last.get(from) ?? [];
      const ranked = [...new Set([...folders].reverse())];
      return ranked.map((folder) => ({
        folder,
        confidence: folders.filter((one) => one === folder).length / (folders.length + 1),
      }));
    },
    learn: ({ from }, folder) => void last.set(from, [...(last.get(from) ?? []), folder]),
  };
}

/** Multinomial over all features, each with the same weight. */
export function naiveBayes(): Method {
  const folders = new Map<FolderId, { filed: number; features: number; readonly counts: Map<string, number> }>();
  const vocabulary = new Set<string>();
  return {
    name: "naive Bayes",
    rank: (mail) => {
      const keys = featuresOf(mail).map(({ key }) => key);
      const all = [...folders.values()].reduce((sum, { filed }) => sum + filed, 0);
      const scores = [...folders].map(([folder, { filed, features, counts }]) => {
        let score = Math.log(filed / all);
        for (const key of keys) score += Math.log(((counts.get(key) ?? 0) + 0.1) / (features + 0.1 * vocabulary.size));
        return { folder, score };
      });
      const most = Math.max(...scores.map(({ score }) => score));
      const sum = scores.reduce((total, { score }) => total + Math.exp(score - most), 0);
      return scores
        .map(({ folder, score }) => ({ folder, confidence: Math.exp(score - most) / sum }))
        .sort((a, b) => b.confidence - a.confidence)
        .slice(0, 5);
    },
    learn: (mail, folder) => {
      const known = folders.get(folder) ?? { filed: 0, features: 0, counts: new Map<string, number>() };
      folders.set(folder, known);
      known.filed++;
      for (const { key } of featuresOf(mail)) {
        known.features++;
        known.counts.set(key, (known.counts.get(key) ?? 0) + 1);
        vocabulary.add(key);
      }
    },
  };
}

/** Softmax regression, a gradient step a message. */
export function online(): Method {
  const RATE = 0.3;
  const weights = new Map<string, Map<FolderId, number>>();
  const folders = new Set<FolderId>();
  const probabilities = (mail: FilingMail) => {
    const keys = featuresOf(mail).map(({ key }) => key);
    const scores = new Map([...folders].map((folder) => [folder, 0]));
    for (const key of keys)
      for (const [folder, weight] of weights.get(key) ?? []) scores.set(folder, scores.get(folder)! + weight);
    const most = Math.max(...scores.values());
    let sum = 0;
    for (const score of scores.values()) sum += Math.exp(score - most);
    return { keys, of: [...scores].map(([folder, score]) => ({ folder, confidence: Math.exp(score - most) / sum })) };
  };
  return {
    name: "an online linear model",
    rank: (mail) =>
      folders.size === 0
        ? []
        : probabilities(mail)
            .of.sort((a, b) => b.confidence - a.confidence)
            .slice(0, 5),
    learn: (mail, folder) => {
      folders.add(folder);
      const { keys, of } = probabilities(mail);
      const step = RATE / Math.sqrt(keys.length);
      for (const { folder: one, confidence } of of) {
        const slope = Number(one === folder) - confidence;
        if (Math.abs(slope) < 0.001) continue;
        for (const key of keys) {
          const known = weights.get(key) ?? new Map<FolderId, number>();
          weights.set(key, known);
          known.set(one, (known.get(one) ?? 0) + step * slope);
        }
      }
    },
  };
}

/** What the app does. */
export function blend(): Method {
  const ranker = new Ranker();
  return {
    name: "weighed and calibrated (the app's)",
    rank: (mail, nowMs) => ranker.rank(mail, nowMs),
    learn: (mail, folder, nowMs) => void ranker.learn(mail, folder, nowMs),
  };
}
