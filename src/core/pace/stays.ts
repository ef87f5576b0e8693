import type { MessageEdit } from "../change";
import type { Actor, EntryKind } from "../ledger";

/**
 * How long a message stays where mail waits, read from what was written to it. Leaving such a place is a decision;
 * taking a run back takes back what it decided, as if it had never been made.
 */
export interface Stay {
  /** The folder it waits in. */
  readonly place: number;
  /** Milliseconds since 1970, as all times here. */
  readonly came: number;
  /** The run that put it there; null for mail that came in. */
  readonly cameBy: string | null;
  /** null while it waits. */
  readonly left: number | null;
  readonly leftBy: string | null;
  /** Whether the person decided, and not a rule, a server or the clock. */
  readonly byPerson: boolean;
}

/** What one write did to a message. */
export interface Moment {
  /** The write; for an undo or redo the run that it is about. */
  readonly run: string;
  readonly kind: EntryKind;
  readonly actor: Actor;
  readonly at: number;
  readonly edits: readonly MessageEdit[];
}

/** Where a message is; null where there is none. */
export type Whereabouts = { readonly folder: number; readonly deferred: boolean } | null;

/** The whereabouts an edit says something about. */
export const ofPace = ({ kind }: MessageEdit): boolean =>
  kind === "folder" || kind === "defer" || kind === "exists" || kind === "gone";

type End = "before" | "after";

/** The same after an edit, or before it. */
function moved(where: Whereabouts, edit: MessageEdit, end: End): Whereabouts {
  switch (edit.kind) {
    case "folder":
      return where && { ...where, folder: edit[end] };
    case "defer":
      return where && { ...where, deferred: edit[end] !== null };
    case "exists": {
      const there = edit[end];
      return there && { folder: there.state.folder, deferred: there.state.defer !== null };
    }
    case "gone":
      return edit[end] ? null : where;
    default:
      return where;
  }
}

/** Where it was before all of these: what they do not speak of was as it is now. */
function first(last: Stay | undefined, moments: readonly Moment[], now: Whereabouts): Whereabouts {
  let where = now ?? (last ? { folder: last.place, deferred: last.left !== null } : null);
  for (const { edits } of [...moments].reverse())
    for (const edit of [...edits].reverse()) {
      // Of a message that is gone by now, the last edits say where it was.
      if (!where && edit.kind === "folder") where = { folder: edit.before, deferred: false };
      else where = moved(where, edit, "before");
    }
  return where;
}

/**
 * The stays of a message after some more was written to it.
 * @param stays those that are known, in order; only the last of them may be open
 * @param moments what was written since, in order
 * @param now where it is after all of them
 * @param waits whether mail in a folder waits to be decided
 * @param written when the message was written: what came in waits since then
 */
export function follow(
  stays: readonly Stay[],
  moments: readonly Moment[],
  now: Whereabouts,
  waits: (folder: number) => boolean,
  written: number,
): readonly Stay[] {
  const placeOf = (where: Whereabouts): number | null =>
    where && !where.deferred && waits(where.folder) ? where.folder : null;
  const out = [...stays];
  let where = first(stays.at(-1), moments, now);
  const begins = placeOf(where);
  if (out.length === 0 && begins !== null)
    out.push({ place: begins, came: written, cameBy: null, left: null, leftBy: null, byPerson: false });
  for (const moment of moments) {
    const after = moment.edits.reduce<Whereabouts>((at, edit) => moved(at, edit, "after"), where);
    const [from, to] = [placeOf(where), placeOf(after)];
    where = after;
    if (from !== to) move(out, moment, to);
  }
  return out;
}

/** Ends the stay that is open, and begins another where it goes to. */
function move(out: Stay[], { run, kind, actor, at }: Moment, to: number | null): void {
  const isBack = kind === "undo";
  const last = out.at(-1);
  // It was seen there already, by somebody who looked a moment later.
  if (last?.left === null && last.place === to) return;
  if (last?.left === null) {
    if (isBack && last.cameBy === run) out.pop();
    else out[out.length - 1] = { ...last, left: Math.max(at, last.came), leftBy: run, byPerson: actor === "person" };
  }
  if (to === null) return;
  const before = out.at(-1);
  if (isBack && before?.leftBy === run && before.place === to)
    out[out.length - 1] = { ...before, left: null, leftBy: null, byPerson: false };
  else out.push({ place: to, came: at, cameBy: run, left: null, leftBy: null, byPerson: false });
}
