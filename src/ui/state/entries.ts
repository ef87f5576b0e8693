import type { EntryShape } from "@/core/api";
import { touchedBy } from "@/core/change";
import { READING, restorable, type RunState } from "@/core/ledger";
import type { OnItsWay } from "./decision";

/** The ledger as a window shows it: entries the server confirmed, and on top of them what is on its way. */

/** How far back undo reaches by key; further back it is in the ledger. */
const MOST_OWN = 200;
/** What rules, servers and the clock do is shown and not meant by that key: it takes no place among it. */
const MOST_OTHERS = 40;

/** Where the entries a window holds are read. */
export const LEDGER_PATH = `/ledger?limit=${MOST_OWN}&others=${MOST_OTHERS}`;

/** Of what was only read so many runs, with what was taken back of it and done again: undo means the newest alone. */
const MOST_READINGS = 20;

/** Whether an entry is of what was only read: no decision, and so in no list of those. */
export function areReadings(entries: readonly EntryShape[]): (entry: EntryShape) => boolean {
  const read = new Set(entries.filter(({ cause }) => cause === READING).map(({ id }) => id));
  return ({ id, of }) => read.has(id) || (of !== null && read.has(of));
}

/** As many as are held of each kind. @param entries newest first */
function newest(entries: readonly EntryShape[]): EntryShape[] {
  const isReading = areReadings(entries);
  let [own, others, readings] = [0, 0, 0];
  return entries.filter((entry) => {
    if (isReading(entry)) return ++readings <= MOST_READINGS;
    return entry.actor === "person" ? ++own <= MOST_OWN : ++others <= MOST_OTHERS;
  });
}

/** An entry for a decision the server has not confirmed. */
function entryOf({ decision, change }: OnItsWay, seq: number): EntryShape {
  const isRun = decision.kind === "run";
  const macro = isRun
    ? { id: decision.macro.id ?? null, name: decision.macro.name, steps: [...decision.macro.steps] }
    : { id: null, name: decision.name, steps: [] };
  // What the window cannot plan the server may still write.
  const written = touchedBy(change).size;
  return {
    id: decision.id,
    seq,
    at: decision.at,
    kind: decision.kind,
    actor: "person",
    cause: isRun ? (decision.cause ?? null) : null,
    of: isRun ? null : decision.of,
    macro,
    about: isRun ? decision.about : "",
    messages: isRun ? decision.ids.length : 0,
    changed: isRun ? decision.ids.length : 0,
    restorable: written > 0 ? restorable(change) : 1,
    state: "done",
    skipped: 0,
  };
}

/** @param confirmed newest first @param waiting in the order they were decided */
export function shownEntries(confirmed: readonly EntryShape[], waiting: readonly OnItsWay[]): EntryShape[] {
  const known = new Set(confirmed.map((entry) => entry.id));
  const top = confirmed[0]?.seq ?? 0;
  const extra = waiting
    .filter(({ decision }) => !known.has(decision.id))
    .map((one, i) => entryOf(one, top + 1 + i))
    .reverse();
  const kinds = new Map<string, "undo" | "redo">();
  for (const { decision } of waiting) if (decision.kind !== "run") kinds.set(decision.of, decision.kind);
  const all = [...extra, ...confirmed];
  return kinds.size === 0 ? all : all.map((entry) => afterwards(entry, kinds.get(entry.id)));
}

/**
 * A run that was taken back or done again, until the server says how far: what was done again can be taken back, and
 * the next undo means it, not the run before it.
 */
function afterwards(entry: EntryShape, kind: "undo" | "redo" | undefined): EntryShape {
  if (kind === undefined) return entry;
  const state: RunState = kind === "undo" ? "undone" : "done";
  return { ...entry, state, restorable: kind === "redo" ? Math.max(1, entry.restorable) : entry.restorable };
}

/**
 * The confirmed entries with one that just arrived. What was taken back is so at once: the next undo must not
 * mean it again. Whether wholly, the server tells.
 */
export function withEntry(confirmed: readonly EntryShape[], entry: EntryShape): EntryShape[] {
  const others = confirmed
    .filter((one) => one.id !== entry.id)
    .map((one) => (entry.kind !== "run" && one.id === entry.of ? afterwards(one, entry.kind) : one));
  return newest([entry, ...others]);
}

/**
 * The confirmed entries as the server lists them now. What was only read it leaves out; undo may mean that all the
 * same, right after, and must not fall upon the decision before it.
 */
export function listedAnew(confirmed: readonly EntryShape[], listed: readonly EntryShape[]): EntryShape[] {
  const known = new Set(listed.map(({ id }) => id));
  const readings = confirmed.filter(areReadings(confirmed)).filter(({ id }) => !known.has(id));
  return newest([...listed, ...readings].sort((a, b) => b.seq - a.seq));
}
