import type { ThreadId } from "../id";

export { baseSubject } from "./subject";

/**
 * Grouping messages into threads: by the ids they name (RFC 5322 section 3.6.4), and a reply that names none
 * by its subject, if somebody it is from or to has been in a thread of that subject lately: strangers who write
 * about the same have nothing to do with one another. Incremental: a batch is placed with what is known of
 * earlier ones, and may join threads that were apart. By ids alone the result does not depend on the order of
 * arrival.
 */
export interface ThreadItem {
  readonly messageId: string | null;
  readonly references: readonly string[];
  /** The subject without prefixes, folded; "" joins nothing. */
  readonly subject: string;
  readonly isReply: boolean;
  /** Addresses of those it is from and to, the person's own left out, in lower case. */
  readonly people: readonly string[];
  readonly dateMs: number;
}

/** Where a subject was met last with somebody. */
export interface Met {
  readonly thread: ThreadId;
  readonly dateMs: number;
}

/** A reply further from what it may be an answer to begins a thread of its own. */
export const SPAN_MS = 30 * 86_400_000;

/** What `bySubject` is asked by: a subject holds no line break. */
export const subjectKey = (subject: string, address: string): string => `${subject}\n${address}`;

export interface Known {
  /** Threads of message ids that were named before. */
  readonly byId: ReadonlyMap<string, ThreadId>;
  /** Where each subject was met with each of its people, by subjectKey. */
  readonly bySubject: ReadonlyMap<string, Met>;
}

export interface Placed {
  /** A thread for each item, in order. */
  readonly threads: readonly ThreadId[];
  /** Threads that turned out to be one: the second goes into the first. */
  readonly merged: readonly (readonly [into: ThreadId, from: ThreadId])[];
  /** What is known now of the ids and subjects of this batch. */
  readonly byId: ReadonlyMap<string, ThreadId>;
  readonly bySubject: ReadonlyMap<string, Met>;
}

/** @param fresh gives the number of a new thread; numbers rise */
export function placeInThreads(items: readonly ThreadItem[], known: Known, fresh: () => ThreadId): Placed {
  const parent = new Map<ThreadId, ThreadId>();
  const root = (thread: ThreadId): ThreadId => {
    let at = thread;
    for (let up = parent.get(at); up !== undefined; up = parent.get(at)) at = up;
    // Paths are shortened as they are walked, so long chains cost once.
    for (let below = thread; below !== at;) {
      const up = parent.get(below) ?? at;
      parent.set(below, at);
      below = up;
    }
    return at;
  };
  const byId = new Map<string, ThreadId>();
  const bySubject = new Map<string, Met>();
  const idOf = (id: string) => byId.get(id) ?? known.byId.get(id);

  const lastMet = (key: string) => bySubject.get(key) ?? known.bySubject.get(key);

  const placed = items.map((item) => {
    const ids = item.messageId === null ? item.references : [...item.references, item.messageId];
    const met = [
      ...new Set(
        ids
          .map(idOf)
          .filter((t) => t !== undefined)
          .map(root),
      ),
    ];
    if (met.length === 0 && item.isReply && item.references.length === 0 && item.subject !== "") {
      const near = item.people
        .map((address) => lastMet(subjectKey(item.subject, address)))
        .filter((one) => one !== undefined && Math.abs(one.dateMs - item.dateMs) <= SPAN_MS);
      const [first] = near.sort((a, b) => b!.dateMs - a!.dateMs);
      if (first) met.push(root(first.thread));
    }
    // The lowest number stays, whatever the order the threads were met in.
    const thread = met.length > 0 ? met.reduce((a, b) => (a < b ? a : b)) : fresh();
    for (const other of met) if (other !== thread) parent.set(other, thread);
    for (const id of ids) byId.set(id, thread);
    if (item.subject !== "")
      for (const address of item.people) {
        const key = subjectKey(item.subject, address);
        const last = lastMet(key);
        if (!last || last.dateMs <= item.dateMs) bySubject.set(key, { thread, dateMs: item.dateMs });
      }
    return thread;
  });
  return {
    threads: placed.map(root),
    merged: [...parent.keys()].map((from) => [root(from), from] as const),
    byId: new Map([...byId].map(([key, thread]) => [key, root(thread)])),
    bySubject: new Map([...bySubject].map(([key, met]) => [key, { ...met, thread: root(met.thread) }])),
  };
}
