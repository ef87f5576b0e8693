import type { MessageId } from "../id";
import {
  cellOf,
  editsBetween,
  ofState,
  readCell,
  sameState,
  sameValue,
  type CellEdit,
  type MessageState,
} from "./cell";
import { changeOfMessages, type Change } from "./change";
import { isThing, sameThing, type ReadThing, type ThingEdit } from "./thing";

/** Why a cell was left alone. */
export type SkipReason = "gone" | "changed-elsewhere" | "already-so";

export interface Skip {
  readonly message: MessageId;
  /** "folder", "label:7", "exists" */
  readonly cell: string;
  readonly reason: SkipReason;
}

/** What is stored for a message now; null when there is no such message. */
export type ReadState = (message: MessageId) => MessageState | null;

export interface Reconciled {
  readonly ready: Change;
  readonly skipped: readonly Skip[];
}

type Verdict = "ready" | SkipReason;

function judgeThing(edit: ThingEdit, message: MessageId, found: MessageState | null, thing: ReadThing): Verdict {
  if (edit.kind === "gone") {
    // What was deleted for good does not come back.
    if (!edit.after) return "gone";
    return found ? "ready" : "already-so";
  }
  const value = thing(edit, message);
  if (sameThing(value, edit.before)) return "ready";
  return sameThing(value, edit.after) ? "already-so" : "changed-elsewhere";
}

function judge(
  edit: CellEdit,
  message: MessageId,
  found: MessageState | null,
  read: ReadState,
  thing: ReadThing,
): Verdict {
  if (isThing(edit)) return judgeThing(edit, message, found, thing);
  if (edit.kind === "exists") {
    if (edit.after) {
      if (found) return "already-so";
      return read(edit.after.source) ? "ready" : "gone";
    }
    if (!found) return "already-so";
    return edit.before && sameState(found, edit.before.state) ? "ready" : "changed-elsewhere";
  }
  if (!found) return "gone";
  const value = readCell(found, edit);
  if (sameValue(value, edit.before)) return "ready";
  return sameValue(value, edit.after) ? "already-so" : "changed-elsewhere";
}

/** Where things are not kept, as in a window, they are taken to be as the writer saw them. */
const asBefore: ReadThing = (edit) => edit.before;

/**
 * Splits a change into what may be written now and what may not, cell by cell. Writes nothing.
 * Every edit is either in `ready` or in `skipped`, never both.
 */
export function reconcile(change: Change, read: ReadState, thing: ReadThing = asBefore): Reconciled {
  const ready = new Map<MessageId, readonly CellEdit[]>();
  const skipped: Skip[] = [];
  // Messages in one state that are to get the same edits are judged once: ten thousand are a few dozen pairs.
  const fits = new Map<readonly CellEdit[], Set<MessageState>>();
  for (const [message, edits] of change) {
    const found = read(message);
    if (found && fits.get(edits)?.has(found)) {
      ready.set(message, edits);
      continue;
    }
    const keep = edits.filter((edit) => {
      const verdict = judge(edit, message, found, read, thing);
      if (verdict === "ready") return true;
      skipped.push({ message, cell: cellOf(edit), reason: verdict });
      return false;
    });
    // The same array where nothing was dropped, so that shared lists stay shared.
    if (keep.length > 0) ready.set(message, keep.length === edits.length ? edits : keep);
    if (found && keep.length === edits.length && edits.every(ofState)) {
      const states = fits.get(edits);
      if (states) states.add(found);
      else fits.set(edits, new Set([found]));
    }
  }
  return { ready: skipped.length === 0 ? change : changeOfMessages(ready), skipped };
}

/** What leads from the states read to the states wanted, for messages that exist in both. */
export function changeBetween(
  messages: Iterable<readonly [MessageId, MessageState, MessageState]>,
  share: (edits: readonly CellEdit[]) => readonly CellEdit[],
): Change {
  const out = new Map<MessageId, readonly CellEdit[]>();
  for (const [message, before, after] of messages) {
    if (before === after) continue;
    const edits = editsBetween(before, after);
    if (edits.length > 0) out.set(message, share(edits));
  }
  return changeOfMessages(out);
}
