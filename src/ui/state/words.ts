import { needlesOf, type Test } from "@/core/narrow";
import { getWords } from "./api";

/**
 * The words of messages are on the server: it is asked which messages hold a needle, and what it said is kept
 * for as long as no mail comes in.
 */
const MOST_KEPT = 40;

export class KnownWords {
  private readonly known = new Map<string, ReadonlySet<number>>();
  /** What is being asked, each time by another mark: an answer from before it was forgotten is none. */
  private readonly asked = new Map<string, symbol>();

  /** @param read ids of the messages that hold a needle */
  constructor(private readonly read: (needle: string) => Promise<ReadonlySet<number>>) {}

  /** Which messages hold the needle, as far as it is known. */
  readonly of = (needle: string): ReadonlySet<number> | undefined => this.known.get(needle);

  /** Whether some of what the expression asks for has not been answered yet. */
  readonly waitsFor = (test: Test): boolean => [...needlesOf(test)].some((needle) => !this.known.has(needle));

  /** What is known may be old: messages came in, or the index went on. */
  readonly forget = (): void => {
    this.known.clear();
    this.asked.clear();
  };

  /**
   * Asks the server for what the expression needs.
   * @param done called when something more is known
   * @param failed called when the server could not be asked
   */
  readonly ask = (test: Test, done: () => void, failed: (error: unknown) => void): void => {
    for (const needle of needlesOf(test)) {
      if (this.known.has(needle) || this.asked.has(needle)) continue;
      const mine = Symbol(needle);
      this.asked.set(needle, mine);
      const isOver = (): boolean => {
        if (this.asked.get(needle) !== mine) return false;
        return this.asked.delete(needle);
      };
      this.read(needle).then(
        (ids) => {
          if (!isOver()) return;
          this.known.set(needle, ids);
          for (const oldest of this.known.keys()) {
            if (this.known.size <= MOST_KEPT) break;
            this.known.delete(oldest);
          }
          done();
        },
        (error: unknown) => {
          if (isOver()) failed(error);
        },
      );
    }
  };
}

const words = new KnownWords(getWords);
export const { of: wordsKnown, waitsFor: waitsForWords, forget: forgetWords, ask: askForWords } = words;
