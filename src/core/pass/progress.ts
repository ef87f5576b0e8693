/** What was decided about a message of a pass. */
export interface Deed {
  readonly message: number;
  /** The run that did it. */
  readonly run: string;
  /** What the macro was called. */
  readonly macro: string;
  /** How long the message was before the eyes, milliseconds. */
  readonly ms: number;
  /** When, milliseconds since 1970. */
  readonly at: number;
}

/** How far a pass has come. Each message of its queue is counted once. */
export interface Progress {
  readonly done: number;
  /** Decided so that an answer is still owed. */
  readonly aside: number;
  /** Passed over undecided. */
  readonly skipped: number;
  readonly left: number;
}

interface Walk {
  /** How many messages it goes through. */
  readonly total: number;
  /** Those of them that were decided, each once. */
  readonly decided: { has(message: number): boolean } & Iterable<number>;
  /** Those of them that were passed over, each once. */
  readonly skipped: Iterable<number>;
}

/**
 * Counts a queue without walking it: it may be long. What is decided was not skipped, whenever that was.
 * @param isOwed whether an answer is owed to a message now
 */
export function progressOf({ total, decided, skipped }: Walk, isOwed: (message: number) => boolean): Progress {
  const counts = { done: 0, aside: 0, skipped: 0 };
  for (const message of decided) counts[isOwed(message) ? "aside" : "done"]++;
  for (const message of skipped) if (!decided.has(message)) counts.skipped++;
  return { ...counts, left: total - counts.done - counts.aside - counts.skipped };
}
