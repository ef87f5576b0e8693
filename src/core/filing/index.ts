import type { FolderId } from "../id";
import { domainOf } from "./features";

export { domainOf, featuresOf, KINDS, type FilingMail, type Kind } from "./features";
export { Ranker, type Guess, type Receipt } from "./ranker";

/**
 * The folder guess, in its simplest form: where mail of the same sender, or else of the same domain, has gone
 * before. A guess is made only where most of it went to one place.
 */
export interface Filed {
  readonly address: string;
  readonly folder: FolderId;
  readonly messages: number;
}

/** Fewer filed messages than this are no habit. */
const LEAST_FILED = 2;
/** The share of them that has to be in one folder. */
const LEAST_SHARE = 0.6;

/** How many messages of each sender, and of each domain as "@domain", are in each folder. */
function tallied(filed: Iterable<Filed>): Map<string, Map<FolderId, number>> {
  const senders = new Map<string, Map<FolderId, number>>();
  const add = (key: string, { folder, messages }: Filed) => {
    let folders = senders.get(key);
    if (!folders) senders.set(key, (folders = new Map()));
    folders.set(folder, (folders.get(folder) ?? 0) + messages);
  };
  for (const entry of filed) {
    add(entry.address.toLowerCase(), entry);
    add(`@${domainOf(entry.address)}`, entry);
  }
  return senders;
}

/** @param filed how many messages of each sender are in each folder that mail is filed into */
export function guessFrom(filed: Iterable<Filed>): (address: string) => FolderId | null {
  const senders = tallied(filed);
  const best = (key: string): FolderId | null => {
    const folders = senders.get(key);
    if (!folders) return null;
    const all = [...folders.values()].reduce((sum, n) => sum + n, 0);
    const [folder, most] = [...folders].reduce((a, b) => (b[1] > a[1] ? b : a));
    return most >= LEAST_FILED && most >= all * LEAST_SHARE ? folder : null;
  };
  return (address) => best(address.toLowerCase()) ?? best(`@${domainOf(address)}`);
}

/** Folders that mail of a sender may be meant for, the likeliest first: where theirs is, then where their domain's is. */
export function rankFrom(filed: Iterable<Filed>): (address: string) => FolderId[] {
  const senders = tallied(filed);
  const ranked = (key: string) => [...(senders.get(key) ?? [])].sort((a, b) => b[1] - a[1]).map(([folder]) => folder);
  return (address) => [...new Set([...ranked(address.toLowerCase()), ...ranked(`@${domainOf(address)}`)])];
}
