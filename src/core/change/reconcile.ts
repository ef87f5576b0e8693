import type { MessageId } from "../id";
import { cellOf, ofState, readCell, sameState, sameValue, type MessageEdit, type MessageState } from "./cell";
import { changeOfMessages, type Change } from "./change";
import { sameThing, thingKey, type ThingEdit } from "./thing";
import type { World } from "./world";

/** Why a cell was left alone. */
export type SkipReason = "gone" | "changed-elsewhere" | "already-so" | "sent";

export interface Skip {
  /** null for a thing that was made from no message. */
  readonly message: MessageId | null;
  /** "folder", "label:7", "exists", "task:12" */
  readonly cell: string;
  readonly reason: SkipReason;
}

export interface Reconciled {
  readonly ready: Change;
  readonly skipped: readonly Skip[];
}

type Verdict = "ready" | SkipReason;

function judgeThing(edit: ThingEdit, world: World): Verdict {
  const value = world.thing(edit);
  // Where things are not known, they are taken to be as the writer saw them.
  if (value === undefined || sameThing(value, edit.before)) return "ready";
  if (sameThing(value, edit.after)) return "already-so";
  // What has left, or may be leaving, nobody calls back.
  return edit.kind === "held" && (value === "sent" || value === "sending") ? "sent" : "changed-elsewhere";
}

function judge(edit: MessageEdit, found: MessageState | null, world: World): Verdict {
  if (edit.kind === "gone") {
    // What was deleted for good does not come back.
    if (!edit.after) return "gone";
    return found ? "ready" : "already-so";
  }
  if (edit.kind === "exists") {
    if (edit.after) {
      if (found) return "already-so";
      return world.state(edit.after.source) ? "ready" : "gone";
    }
    if (!found) return "already-so";
    return edit.before && sameState(found, edit.before.state) ? "ready" : "changed-elsewhere";
  }
  if (!found) return "gone";
  const value = readCell(found, edit);
  if (sameValue(value, edit.before)) return "ready";
  return sameValue(value, edit.after) ? "already-so" : "changed-elsewhere";
}

/**
 * Splits a change into what may be written now and what may not, cell by cell. Writes nothing.
 * Every edit is either in `ready` or in `skipped`, never both.
 */
export function reconcile(change: Change, world: World): Reconciled {
  const ready = new Map<MessageId, readonly MessageEdit[]>();
  const skipped: Skip[] = [];
  // Messages in one state that are to get the same edits are judged once: ten thousand are a few dozen pairs.
  const fits = new Map<readonly MessageEdit[], Set<MessageState>>();
  for (const [message, edits] of change.messages) {
    const found = world.state(message);
    if (found && fits.get(edits)?.has(found)) {
      ready.set(message, edits);
      continue;
    }
    const keep = edits.filter((edit) => {
      const verdict = judge(edit, found, world);
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
  const things = [...change.things.values()].filter((edit) => {
    const verdict = judgeThing(edit, world);
    if (verdict === "ready") return true;
    skipped.push({ message: edit.about, cell: thingKey(edit), reason: verdict });
    return false;
  });
  return { ready: skipped.length === 0 ? change : changeOfMessages(ready, things), skipped };
}
