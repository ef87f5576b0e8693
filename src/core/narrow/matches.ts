import type { Test } from "./check";
import { isTraitState, STATE_TRAITS, type NarrowRow, type TextField, type TraitState } from "./row";
import type { Range } from "./values";

export type Predicate = (row: NarrowRow) => boolean;

/** How texts are looked into: for each row by itself, or for a whole table of them at once. */
export interface Seekers {
  /** Whether a field holds the needle, or is it. */
  readonly seek: (field: TextField, needle: string, whole: boolean) => Predicate;
  /** Whether the message's own words hold the needle. */
  readonly words: (needle: string) => Predicate;
  /** Whether a task made from the message is open, and due then. */
  readonly tasks: (due: Range | null) => Predicate;
}

/** Whether any of some tasks is due in a range; without one, whether there are any. */
export const isAnyDue = (tasks: readonly number[], due: Range | null): boolean =>
  due === null ? tasks.length > 0 : tasks.some((ms) => ms >= (due.from ?? -Infinity) && ms < (due.to ?? Infinity));

/** Each row by itself. */
export const ROW_BY_ROW: Seekers = {
  seek: (field, needle, whole) =>
    whole ? (row) => row.text(field) === needle : (row) => row.text(field).includes(needle),
  words: (needle) => (row) => row.body().includes(needle),
  tasks: (due) => (row) => isAnyDue(row.tasks(), due),
};

/** Where a word by itself is looked for, beside the message's own words. */
export const WORD_HEADERS: readonly TextField[] = ["subject", "from", "to", "file"];

/** Whether the expression asks for the words of messages, which only the server has. */
export const asksForWords = (test: Test): boolean => needlesOf(test).size > 0;

/** Whether the expression asks for tasks, which are beside messages and not on them. */
export function asksForTasks(test: Test): boolean {
  if (test.kind === "not") return asksForTasks(test.part);
  return test.kind === "and" || test.kind === "or" ? test.parts.some(asksForTasks) : test.kind === "task";
}

/** What has to be looked for in the words of messages to answer the expression. */
export function needlesOf(test: Test): Set<string> {
  if (test.kind === "words") return new Set([test.needle]);
  if (test.kind === "not") return needlesOf(test.part);
  if (test.kind === "and" || test.kind === "or") return new Set(test.parts.flatMap((part) => [...needlesOf(part)]));
  return new Set();
}

type StateName = Extract<Test, { kind: "state" }>["state"];

const STATE_TESTS: Record<Exclude<StateName, TraitState>, Predicate> = {
  read: (row) => row.read,
  flagged: (row) => row.flagged,
  pinned: (row) => row.pin,
  owed: (row) => row.owed,
  awaited: (row) => row.awaited,
  deferred: (row) => row.deferred,
  returned: (row) => row.returned,
  marked: (row) => row.marker !== 0,
};

function stateTest(state: StateName): Predicate {
  if (!isTraitState(state)) return STATE_TESTS[state];
  const bits = STATE_TRAITS[state];
  return (row) => (row.traits & bits) !== 0;
}

/** Cheap tests first: a conjunction stops at the first that fails, and texts cost most. */
const cost = (test: Test): number => {
  if (test.kind === "text") return 2;
  if (test.kind === "words") return 3;
  if (test.kind === "and" || test.kind === "or") return Math.max(0, ...test.parts.map(cost));
  return test.kind === "not" ? cost(test.part) : 0;
};

const inOrder = (parts: readonly Test[], seekers: Seekers): Predicate[] =>
  [...parts].sort((a, b) => cost(a) - cost(b)).map((part) => matcher(part, seekers));

/** Two parts are by far the commonest, and a loop for them takes half as long again. */
function every(parts: readonly Predicate[]): Predicate {
  const [a, b] = parts;
  if (parts.length === 2) return (row) => a!(row) && b!(row);
  return (row) => {
    for (const part of parts) if (!part(row)) return false;
    return true;
  };
}

function some(parts: readonly Predicate[]): Predicate {
  const [a, b] = parts;
  if (parts.length === 2) return (row) => a!(row) || b!(row);
  return (row) => {
    for (const part of parts) if (part(row)) return true;
    return false;
  };
}

/**
 * The in-memory back end: a checked expression as a predicate. Its twin is the SQL one in server/search.
 * @param seekers how texts are looked into
 */
export function matcher(test: Test, seekers: Seekers = ROW_BY_ROW): Predicate {
  switch (test.kind) {
    case "all":
      return () => true;
    case "and": {
      return every(inOrder(test.parts, seekers));
    }
    case "or": {
      return some(inOrder(test.parts, seekers));
    }
    case "not": {
      const part = matcher(test.part, seekers);
      return (row) => !part(row);
    }
    case "state":
      return stateTest(test.state);
    case "text":
      return seekers.seek(test.field, test.needle, test.whole);
    case "words": {
      const { needle, where } = test;
      const words = seekers.words(needle);
      return where === "body"
        ? words
        : some([...WORD_HEADERS.map((field) => seekers.seek(field, needle, false)), words]);
    }
    case "folder": {
      const ids = new Set(test.ids);
      const [only] = test.ids;
      return ids.size === 1 ? (row) => row.folder === only : (row) => ids.has(row.folder);
    }
    case "marker": {
      const ids = new Set(test.ids);
      return (row) => ids.has(row.marker);
    }
    case "account": {
      const ids = new Set(test.ids);
      return (row) => ids.has(row.account);
    }
    case "task":
      return seekers.tasks(test.due);
    case "label": {
      const { ids } = test;
      return (row) => ids.some((id) => row.hasLabel(id));
    }
    case "range": {
      const from = test.from ?? -Infinity;
      const to = test.to ?? Infinity;
      if (test.field === "size") return (row) => row.size >= from && row.size < to;
      if (test.field === "date") return (row) => row.dateMs >= from && row.dateMs < to;
      // No due date is NaN, which is in no range; the same for deferring.
      if (test.field === "deferred") return (row) => row.deferMs >= from && row.deferMs < to;
      return (row) => row.dueMs >= from && row.dueMs < to;
    }
  }
}
