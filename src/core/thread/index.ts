import type { ThreadId } from "../id";

export { baseSubject } from "./subject";

/**
 * Grouping messages into threads: by the ids they name (RFC 5322 section 3.6.4), and a reply that names none
 * by its subject. Incremental: a batch is placed with what is known of earlier ones, and may join threads
 * that were apart. By ids alone the result does not depend on the order of arrival.
 */
export interface ThreadItem {
  readonly messageId: string | null;
  readonly references: readonly string[];
  /** The subject without prefixes, folded; "" joins nothing. */
  readonly subject: string;
  readonly isReply: boolean;
}

export interface Known {
  /** Threads of message ids that were named before. */
  readonly byId: ReadonlyMap<string, ThreadId>;
  /** The newest thread of a subject. */
  readonly bySubject: ReadonlyMap<string, ThreadId>;
}

export interface Placed {
  /** A thread for each item, in order. */
  readonly threads: readonly ThreadId[];
  /** Threads that turned out to be one: the second goes into the first. */
  readonly merged: readonly (readonly [into: ThreadId, from: ThreadId])[];
  /** What is known now of the ids and subjects of this batch. */
  readonly byId: ReadonlyMap<string, ThreadId>;
  readonly bySubject: ReadonlyMap<string, ThreadId>;
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
  const bySubject = new Map<string, ThreadId>();
  const idOf = (id: string) => byId.get(id) ?? known.byId.get(id);

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
      const alike = bySubject.get(item.subject) ?? known.bySubject.get(item.subject);
      if (alike !== undefined) met.push(root(alike));
    }
    // The lowest number stays, whatever the order the threads were met in.
    const thread = met.length > 0 ? met.reduce((a, b) => (a < b ? a : b)) : fresh();
    for (const other of met) if (other !== thread) parent.set(other, thread);
    for (const id of ids) byId.set(id, thread);
    if (item.subject !== "") bySubject.set(item.subject, thread);
    return thread;
  });
  const settled = (map: Map<string, ThreadId>) => new Map([...map].map(([key, thread]) => [key, root(thread)]));
  return {
    threads: placed.map(root),
    merged: [...parent.keys()].map((from) => [root(from), from] as const),
    byId: settled(byId),
    bySubject: settled(bySubject),
  };
}
