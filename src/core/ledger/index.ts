import {
  cellOf,
  compose,
  filterChange,
  invert,
  reconcile,
  thingKey,
  type Change,
  type Reconciled,
  type World,
} from "../change";
import type { RunId } from "../id";

/**
 * The ledger is append-only: undoing a run is a new entry that names it, and so is doing it again. An entry
 * holds what was really written, never what was asked, so taking it back touches nothing else.
 */
export type EntryKind = "run" | "undo" | "redo";
export type RunState = "done" | "undone" | "partly undone";

/**
 * Who wrote: the person; a rule of theirs; the outbox as mail leaves it; a mail server; the clock as times come;
 * the keeper that lets go what has been kept long enough. The undo key walks the person's own entries.
 */
export const ACTORS = ["person", "rule", "outbox", "server", "clock", "keeper"] as const;
export type Actor = (typeof ACTORS)[number];

/** With what the person made a run: a key, a swipe, or something pressed. */
export const HANDS = ["key", "swipe", "press"] as const;
export type Hand = (typeof HANDS)[number];

export interface Entry {
  /** Rises with every write of a person's mail. */
  readonly seq: number;
  readonly id: RunId;
  readonly kind: EntryKind;
  readonly actor: Actor;
  /** Which rule, account or timer made it; READING where the person only read; else null. */
  readonly cause?: string | null;
  /** For an undo or redo: the run it is about. */
  readonly of: RunId | null;
  /** For a run: what has become of it. */
  readonly state: RunState;
  /** How many messages it changed. */
  readonly changed: number;
  /** How many of the cells and things it wrote still stand and could be taken back. */
  readonly restorable: number;
}

/** The cause of a run that marks as read what the person looked at: no decision, so undo does not walk over it. */
export const READING = "reading";

const newestFirst = <E extends Entry>(entries: readonly E[]): readonly E[] =>
  [...entries].sort((a, b) => b.seq - a.seq);

/** A run of the person's own that stands. */
const standsOf = (entry: Entry): boolean =>
  entry.kind === "run" && entry.actor === "person" && entry.cause !== READING && entry.state === "done";

export interface NextUndo<E> {
  /** The run that "undo" takes back: the person's newest that still stands and can be taken back. */
  readonly target: E | null;
  /** Newer runs of theirs that wrote something and cannot be taken back, newest first. */
  readonly passed: readonly E[];
}

/** @param stuck runs of which nothing could be taken back when that was tried */
export function nextUndo<E extends Entry>(entries: readonly E[], stuck: ReadonlySet<string> = new Set()): NextUndo<E> {
  const passed: E[] = [];
  for (const entry of newestFirst(entries)) {
    if (!standsOf(entry)) continue;
    if (entry.restorable > 0 && !stuck.has(entry.id)) return { target: entry, passed };
    if (entry.changed > 0) passed.push(entry);
  }
  return { target: null, passed };
}

/**
 * The run that "redo" does again: the one undone last, unless the person has made a run since, which starts a
 * new line of work.
 */
export function nextRedo<E extends Entry>(entries: readonly E[]): E | null {
  const again = new Set<RunId>();
  for (const entry of newestFirst(entries)) {
    if (entry.actor !== "person" || entry.cause === READING) continue;
    if (entry.kind === "run") return null;
    if (entry.of === null) continue;
    if (entry.kind === "redo") again.add(entry.of);
    else if (!again.delete(entry.of)) return entries.find((e) => e.id === entry.of) ?? null;
  }
  return null;
}

/** What undoing may write now, and what it must leave alone because something else has changed it since. */
export const planUndo = (standing: Change, world: World): Reconciled => reconcile(invert(standing), world);

/** What of a run was taken back, and so can be done again: its cells that no longer stand. */
export function takenBack(written: Change, standing: Change): Change {
  return filterChange(
    written,
    (edit, message) => !standing.messages.get(message)?.some((other) => cellOf(other) === cellOf(edit)),
    (edit) => !standing.things.has(thingKey(edit)),
  );
}

/** What of a run still stands after part of it was taken back, or done again. @throws RangeError when the two do not meet. */
export const stillStanding = (standing: Change, since: Change): Change => compose(standing, since);

/** What of it still stands on messages that are there: what was deleted for good takes its cells with it. */
export const onlyExisting = (standing: Change, world: Pick<World, "state">): Change =>
  filterChange(
    standing,
    (_, message) => world.state(message) !== null,
    () => true,
  );

/** How many cells and things of a change can ever be taken back: all but the ends of messages. */
export function restorable(change: Change): number {
  // Thousands of messages share a few lists of edits.
  const counts = new Map<readonly unknown[], number>();
  let cells = change.things.size;
  for (const edits of change.messages.values()) {
    let count = counts.get(edits);
    if (count === undefined) counts.set(edits, (count = edits.filter((edit) => edit.kind !== "gone").length));
    cells += count;
  }
  return cells;
}

/**
 * A run of which nothing is left to restore is undone; of which all still stands, done. One that wrote nothing
 * that could ever be restored stays done.
 */
export function stateOf(written: Change, standing: Change): RunState {
  const all = restorable(written);
  const left = restorable(standing);
  if (all === 0) return "done";
  if (left === 0) return "undone";
  return left === all ? "done" : "partly undone";
}

const MINUTE_MS = 60_000;

/**
 * Entries that follow one another and were made by the same rule in the same minute as one group: mail comes in piece
 * by piece, and a rule is an entry for each. All others are groups of one.
 */
export function byRuleAndMinute<
  E extends { readonly actor: Actor; readonly kind: EntryKind; readonly cause: string | null; readonly at: string },
>(entries: readonly E[]): (readonly E[])[] {
  const groups: E[][] = [];
  const keyOf = ({ actor, kind, cause, at }: E) =>
    actor === "rule" && kind === "run" ? `${cause ?? ""} ${Math.floor(Date.parse(at) / MINUTE_MS)}` : null;
  for (const entry of entries) {
    const last = groups.at(-1);
    const key = keyOf(entry);
    if (last && key !== null && keyOf(last[0]!) === key) last.push(entry);
    else groups.push([entry]);
  }
  return groups;
}
