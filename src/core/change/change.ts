import type { Brand, MessageId } from "../id";
import { cellOf, sameValue, type CellEdit, type Edit } from "./cell";

/**
 * What was done to a set of messages: at most one edit per cell, none with equal ends, no message without
 * edits. Messages with the same edits may share one array, which keeps ten thousand of them small.
 * Made only by the functions of this folder.
 */
export type Change = Brand<ReadonlyMap<MessageId, readonly CellEdit[]>, "Change">;

export const EMPTY: Change = new Map() as ReadonlyMap<MessageId, readonly CellEdit[]> as Change;

const asChange = (map: Map<MessageId, readonly CellEdit[]>): Change =>
  map as ReadonlyMap<MessageId, readonly CellEdit[]> as Change;

const withEnds = (edit: CellEdit, before: CellEdit["before"], after: CellEdit["after"]): CellEdit =>
  ({ ...edit, before, after }) as CellEdit;

/** By the letters of their keys; any fixed order would do, so that equal changes look equal. */
const inCellOrder = (a: CellEdit, b: CellEdit): number => (cellOf(a) < cellOf(b) ? -1 : 1);

/**
 * Two lists of edits of one message, one after the other, as one list.
 * @throws RangeError when edits of a cell do not meet: the caller mixed two histories.
 */
export function joinEdits(first: readonly CellEdit[], then: readonly CellEdit[]): readonly CellEdit[] {
  const cells = new Map<string, CellEdit>();
  for (const edit of [...first, ...then]) {
    const cell = cellOf(edit);
    const before = cells.get(cell);
    if (before && !sameValue(before.after, edit.before)) throw new RangeError(`edits of ${cell} do not meet`);
    cells.set(cell, before ? withEnds(edit, before.before, edit.after) : edit);
  }
  return [...cells.values()].filter((edit) => !sameValue(edit.before, edit.after)).sort(inCellOrder);
}

/**
 * @param edits in the order they happened
 * @throws RangeError when consecutive edits of a cell do not meet.
 */
export function changeOf(edits: Iterable<Edit>): Change {
  const byMessage = new Map<MessageId, CellEdit[]>();
  for (const { message, ...edit } of edits) {
    const list = byMessage.get(message);
    if (list) list.push(edit as CellEdit);
    else byMessage.set(message, [edit as CellEdit]);
  }
  return changeOfMessages(byMessage);
}

/**
 * The same from edits already gathered by message.
 * @throws RangeError when consecutive edits of a cell do not meet.
 */
export function changeOfMessages(byMessage: Iterable<readonly [MessageId, readonly CellEdit[]]>): Change {
  const out = new Map<MessageId, readonly CellEdit[]>();
  const joined = new Map<readonly CellEdit[], readonly CellEdit[]>();
  for (const [message, edits] of byMessage) {
    if (out.has(message)) throw new RangeError(`message ${message} is listed twice`);
    let list = joined.get(edits);
    if (!list) joined.set(edits, (list = joinEdits([], edits)));
    if (list.length > 0) out.set(message, list);
  }
  return asChange(out);
}

/** Doing `first`, then `then`, as one change. @throws RangeError when the two do not meet. */
export function compose(first: Change, then: Change): Change {
  if (first.size === 0) return then;
  if (then.size === 0) return first;
  const out = new Map(first);
  // Shared lists meet shared lists: each pair is joined once, however many messages have it.
  const joined = new Map<readonly CellEdit[], Map<readonly CellEdit[], readonly CellEdit[]>>();
  const join = (earlier: readonly CellEdit[], edits: readonly CellEdit[]): readonly CellEdit[] => {
    let by = joined.get(earlier);
    if (!by) joined.set(earlier, (by = new Map()));
    let list = by.get(edits);
    if (!list) by.set(edits, (list = joinEdits(earlier, edits)));
    return list;
  };
  for (const [message, edits] of then) {
    const earlier = out.get(message);
    const list = earlier ? join(earlier, edits) : edits;
    if (list.length > 0) out.set(message, list);
    else out.delete(message);
  }
  return asChange(out);
}

/** The change that takes this one back. `compose(c, invert(c))` is empty. */
export function invert(change: Change): Change {
  const turned = new Map<readonly CellEdit[], readonly CellEdit[]>();
  const out = new Map<MessageId, readonly CellEdit[]>();
  for (const [message, edits] of change) {
    let list = turned.get(edits);
    if (!list) turned.set(edits, (list = edits.map((edit) => withEnds(edit, edit.after, edit.before))));
    out.set(message, list);
  }
  return asChange(out);
}

/** How many cells the change writes. */
export function countCells(change: Change): number {
  let cells = 0;
  for (const edits of change.values()) cells += edits.length;
  return cells;
}

export function* editsOf(change: Change): Generator<Edit> {
  for (const [message, edits] of change) for (const edit of edits) yield { ...edit, message } as Edit;
}

/** Keeps one array for all lists of edits that are equal, so that a large change stays small. */
export function sharing(): (edits: readonly CellEdit[]) => readonly CellEdit[] {
  const seen = new Map<string, readonly CellEdit[]>();
  return (edits) => {
    const key = JSON.stringify(edits);
    const kept = seen.get(key);
    if (kept) return kept;
    seen.set(key, edits);
    return edits;
  };
}
