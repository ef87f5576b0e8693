import type { Test } from "./check";
import { TRAIT, type NarrowRow } from "./row";

type Predicate = (row: NarrowRow) => boolean;

const STATE_TESTS: Record<Extract<Test, { kind: "state" }>["state"], Predicate> = {
  read: (row) => row.read,
  flagged: (row) => row.flagged,
  pinned: (row) => row.pin,
  owed: (row) => row.owed,
  awaited: (row) => row.awaited,
  deferred: (row) => row.deferred,
  answered: (row) => (row.traits & TRAIT.answered) !== 0,
  attachment: (row) => (row.traits & TRAIT.attachment) !== 0,
  invite: (row) => (row.traits & TRAIT.invite) !== 0,
  listmail: (row) => (row.traits & TRAIT.listmail) !== 0,
  mine: (row) => (row.traits & TRAIT.mine) !== 0,
};

/** Cheap tests first: a conjunction stops at the first that fails, and texts cost most. */
const cost = (test: Test): number => {
  if (test.kind === "text") return 2;
  if (test.kind === "and" || test.kind === "or") return Math.max(0, ...test.parts.map(cost));
  return test.kind === "not" ? cost(test.part) : 0;
};

/** The in-memory back end: a checked expression as a predicate. Its twin is the SQL one in server/search. */
export function matcher(test: Test): Predicate {
  switch (test.kind) {
    case "all":
      return () => true;
    case "and": {
      const parts = [...test.parts].sort((a, b) => cost(a) - cost(b)).map(matcher);
      return (row) => parts.every((part) => part(row));
    }
    case "or": {
      const parts = [...test.parts].sort((a, b) => cost(a) - cost(b)).map(matcher);
      return (row) => parts.some((part) => part(row));
    }
    case "not": {
      const part = matcher(test.part);
      return (row) => !part(row);
    }
    case "state":
      return STATE_TESTS[test.state];
    case "text": {
      const { field, needle, whole } = test;
      return whole ? (row) => row.text(field) === needle : (row) => row.text(field).includes(needle);
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
    case "label": {
      const { ids } = test;
      return (row) => ids.some((id) => row.hasLabel(id));
    }
    case "range": {
      const from = test.from ?? -Infinity;
      const to = test.to ?? Infinity;
      if (test.field === "size") return (row) => row.size >= from && row.size < to;
      if (test.field === "date") return (row) => row.dateMs >= from && row.dateMs < to;
      // No due date is NaN, which is in no range.
      return (row) => row.dueMs >= from && row.dueMs < to;
    }
  }
}
