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
  readonly queue: Iterable<number>;
  readonly decided: { has(message: number): boolean };
  readonly skipped: { has(message: number): boolean };
}

/**
 * Counts a queue. What is decided was not skipped, whenever that was.
 * @param isOwed whether an answer is owed to a message now
 */
export function progressOf({ queue, decided, skipped }: Walk, isOwed: (message: number) => boolean): Progress {
  const counts = { done: 0, aside: 0, skipped: 0, left: 0 };
  for (const message of queue) {
    if (decided.has(message)) counts[isOwed(message) ? "aside" : "done"]++;
    else counts[skipped.has(message) ? "skipped" : "left"]++;
  }
  return counts;
}
