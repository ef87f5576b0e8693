import { folderId, type FolderId } from "../id";
import type { FilingMail } from "./features";
import { monthOf, type Sign } from "./counts";
import { Ranker, type Reason, type Receipt, type StoredRanker } from "./ranker";
import { Reliability, type StoredReliability } from "./reliability";

/** What a message that was decided about teaches: the folder it was filed into, and whether it is junk. */
export interface Lesson {
  /** null for mail in no folder of the person's own, such as the archive or junk. */
  readonly place: Receipt | null;
  readonly verdict: Receipt;
  /** How likely junk it seemed before, as a bin; null before there was anything to go by. */
  readonly bin: number | null;
}

export interface StoredTaught {
  readonly places: StoredRanker;
  readonly verdicts: StoredRanker;
  readonly sure: StoredReliability;
}

/** How sure it is that a message is junk, and what speaks for it. */
export interface Junkiness {
  /** Between 0 and 1: of messages judged like this so many were junk. */
  readonly probability: number;
  readonly reasons: readonly Reason[];
}

/** Both verdicts, as places that a ranker tells apart. */
const JUNK = folderId(1);
const WANTED = folderId(2);

/** From here on it is worth saying why. */
const LIKELY = 0.5;

/** Of a text so many words tell whether it is wanted. */
const WORDS = 25;

/** The folders its thread is in tell where it belongs, and nothing of whether it is wanted: they are no verdicts. */
const forVerdict = (mail: FilingMail): FilingMail => ({ ...mail, words: mail.words.slice(0, WORDS), thread: [] });

/** Whether it changes what is guessed of other mail by more than a hair: that one more is wanted does not. */
export const tellsMuch = ({ place, verdict }: Lesson): boolean => place !== null || verdict.folder === JUNK;

/** All that a person's decisions about mail have taught: where it belongs, and what is junk. */
export class Taught {
  private constructor(
    readonly places = new Ranker(),
    private readonly verdicts = new Ranker(),
    private readonly sure = new Reliability(),
  ) {}

  static nothing = (): Taught => new Taught();

  /** @param stored what toJSON gave, read from its text; kept as its own */
  static from = ({ places, verdicts, sure }: StoredTaught): Taught =>
    new Taught(Ranker.from(places), Ranker.from(verdicts), Reliability.from(sure));

  /**
   * Learns what was decided about a message.
   * @param place the folder it was filed into; null for none of the person's own
   * @param atMs when
   */
  learn(mail: FilingMail, place: FolderId | null, isJunk: boolean, atMs: number): Lesson {
    const knew = this.knows();
    const { receipt, seemed } = this.verdicts.learnAndTell(forVerdict(mail), isJunk ? JUNK : WANTED, JUNK, atMs);
    const lesson = {
      place: place === null ? null : this.places.learn(mail, place, atMs),
      verdict: receipt,
      bin: knew && seemed !== null ? Reliability.binOf(seemed) : null,
    };
    this.note(lesson, 1);
    return lesson;
  }

  /** Learns again what was learned elsewhere. */
  relearn(lesson: Lesson): void {
    if (lesson.place) this.places.relearn(lesson.place);
    this.verdicts.relearn(lesson.verdict);
    this.note(lesson, 1);
  }

  /** Takes back what a lesson taught, in any order and to the last bit. */
  unlearn(lesson: Lesson): void {
    if (lesson.place) this.places.unlearn(lesson.place);
    this.verdicts.unlearn(lesson.verdict);
    this.note(lesson, -1);
  }

  private note({ verdict, bin }: Lesson, by: 1 | -1): void {
    if (bin !== null) this.sure.add(bin, verdict.folder === JUNK, verdict.month, by);
  }

  /** How much is held, in keys: of what an office files, each takes about a kilobyte of memory. */
  get size(): number {
    return this.places.size + this.verdicts.size;
  }

  private knows(): boolean {
    const { junk, wanted } = this.judged();
    return junk > 0 && wanted > 0;
  }

  /** How sure it is that a message is junk; null before there was junk and mail that is none. @param nowMs when it is asked */
  junkiness(mail: FilingMail, nowMs: number): Junkiness | null {
    const seemed = this.knows() ? this.verdicts.seems(forVerdict(mail), JUNK, nowMs) : null;
    if (!seemed) return null;
    const probability = this.sure.of(seemed.probability, monthOf(nowMs));
    return { probability, reasons: probability < LIKELY ? [] : seemed.reasons() };
  }

  /** How many messages have taught what is junk, and what is not. */
  judged(): { readonly junk: number; readonly wanted: number } {
    return { junk: this.verdicts.learned(JUNK), wanted: this.verdicts.learned(WANTED) };
  }

  /** What is found in junk, of kinds a person can make sense of. */
  junkSigns = (most: number): Sign[] => this.verdicts.signs(JUNK, most);

  /** All that was learned; the same twice is the same text. */
  toJSON(): StoredTaught {
    return { places: this.places.toJSON(), verdicts: this.verdicts.toJSON(), sure: this.sure.toJSON() };
  }
}
