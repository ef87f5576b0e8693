import { needlesOf, type Test } from "@/core/narrow";
import { getWords } from "./api";

/**
 * The words of messages are on the server: it is asked which messages hold a needle, and what it said is kept
 * for as long as no mail comes in.
 */
const MOST_KEPT = 40;

const known = new Map<string, ReadonlySet<number>>();
const asked = new Set<string>();

/** Which messages hold the needle, as far as it is known. */
export const wordsKnown = (needle: string): ReadonlySet<number> | undefined => known.get(needle);

/** Whether some of what the expression asks for has not been answered yet. */
export const waitsForWords = (test: Test): boolean => [...needlesOf(test)].some((needle) => !known.has(needle));

/** What is known may be old: messages came in, or the index went on. */
export function forgetWords(): void {
  known.clear();
  asked.clear();
}

/**
 * Asks the server for what the expression needs.
 * @param done called when something more is known
 * @param failed called when the server could not be asked
 */
export function askForWords(test: Test, done: () => void, failed: (error: unknown) => void): void {
  for (const needle of needlesOf(test)) {
    if (known.has(needle) || asked.has(needle)) continue;
    asked.add(needle);
    getWords(needle).then(
      (ids) => {
        // Nobody waits for it any more when it was forgotten meanwhile.
        if (!asked.delete(needle)) return;
        known.set(needle, ids);
        for (const oldest of known.keys()) {
          if (known.size <= MOST_KEPT) break;
          known.delete(oldest);
        }
        done();
      },
      (error: unknown) => {
        asked.delete(needle);
        failed(error);
      },
    );
  }
}
