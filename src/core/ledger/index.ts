import {
  cellOf,
  changeOfMessages,
  compose,
  countCells,
  invert,
  reconcile,
  type Change,
  type ReadState,
  type ReadThing,
  type Reconciled,
} from "../change";
import type { RunId } from "../id";

/**
 * The ledger is append-only: undoing a run is a new entry that names it, and so is doing it again. An entry
 * holds what was really written, never what was asked, so taking it back touches nothing else.
 */
export type EntryKind = "run" | "undo" | "redo";
export type RunState = "done" | "undone" | "partly undone";

export interface Entry {
  /** Rises by one with every write of a person's mail. */
  readonly seq: number;
  readonly id: RunId;
  readonly kind: EntryKind;
  /** For an undo or redo: the run it is about. */
  readonly of: RunId | null;
  /** For a run: what has become of it. */
  readonly state: RunState;
  /** How many cells it wrote; a run that wrote none has nothing to take back. */
  readonly changed: number;
}

const newestFirst = (entries: readonly Entry[]): readonly Entry[] => [...entries].sort((a, b) => b.seq - a.seq);

/** The run that "undo" takes back: the newest that still stands and wrote something. */
export function nextUndo<E extends Entry>(entries: readonly E[]): E | null {
  return (newestFirst(entries).find((e) => e.kind === "run" && e.state === "done" && e.changed > 0) as E) ?? null;
}

/**
 * The run that "redo" does again: the one undone last, unless a run has been made since, which starts a new
 * line of work.
 */
export function nextRedo<E extends Entry>(entries: readonly E[]): E | null {
  const again = new Set<RunId>();
  for (const entry of newestFirst(entries)) {
    if (entry.kind === "run") return null;
    if (entry.of === null) continue;
    if (entry.kind === "redo") again.add(entry.of);
    else if (!again.delete(entry.of)) return (entries.find((e) => e.id === entry.of) as E) ?? null;
  }
  return null;
}

/** What undoing may write now, and what it must leave alone because something else has changed it since. */
export const planUndo = (standing: Change, read: ReadState, thing?: ReadThing): Reconciled =>
  reconcile(invert(standing), read, thing);

/** What of a run was taken back, and so can be done again: its cells that no longer stand. */
export function takenBack(written: Change, standing: Change): Change {
  return changeOfMessages(
    [...written].map(([message, edits]) => {
      const stands = new Set(standing.get(message)?.map(cellOf));
      return [message, stands.size === 0 ? edits : edits.filter((edit) => !stands.has(cellOf(edit)))] as const;
    }),
  );
}

/** What of a run still stands after part of it was taken back, or done again. @throws RangeError when the two do not meet. */
export const stillStanding = (standing: Change, since: Change): Change => compose(standing, since);

/** A run of which nothing stands is undone; of which all stands, done. */
export function stateOf(written: Change, standing: Change): RunState {
  const left = countCells(standing);
  if (left === 0) return "undone";
  return left === countCells(written) ? "done" : "partly undone";
}
