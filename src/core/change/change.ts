import type { Brand, MessageId } from "../id";
import { cellOf, sameValue, type Edit, type MessageEdit } from "./cell";
import { sameThing, thingKey, type ThingEdit, type ThingKey } from "./thing";

interface Parts {
  /** By message: at most one edit a cell, none with equal ends, no message without edits. */
  readonly messages: ReadonlyMap<MessageId, readonly MessageEdit[]>;
  /** By thing: one edit each, none with equal ends. */
  readonly things: ReadonlyMap<ThingKey, ThingEdit>;
}

/**
 * What was done to a set of messages, and to the things made from them. Messages with the same edits may share
 * one array, which keeps ten thousand of them small. Made only by the functions of this folder.
 */
export type Change = Brand<Parts, "Change">;

const asChange = (messages: Parts["messages"], things: Parts["things"]): Change => ({ messages, things }) as Change;

const NO_THINGS: Parts["things"] = new Map();
export const EMPTY: Change = asChange(new Map(), NO_THINGS);

export const isEmpty = (change: Change): boolean => change.messages.size === 0 && change.things.size === 0;

const withEnds = <E extends MessageEdit | ThingEdit>(edit: E, before: E["before"], after: E["after"]): E => ({
  ...edit,
  before,
  after,
});

/** By the letters of their keys; any fixed order would do, so that equal changes look equal. */
const inCellOrder = (a: MessageEdit, b: MessageEdit): number => (cellOf(a) < cellOf(b) ? -1 : 1);

/**
 * Two lists of edits of one message, one after the other, as one list.
 * @throws RangeError when edits of a cell do not meet: the caller mixed two histories.
 */
export function joinEdits(first: readonly MessageEdit[], then: readonly MessageEdit[]): readonly MessageEdit[] {
  const cells = new Map<string, MessageEdit>();
  for (const edit of [...first, ...then]) {
    const cell = cellOf(edit);
    const before = cells.get(cell);
    if (before && !sameValue(before.after, edit.before)) throw new RangeError(`edits of ${cell} do not meet`);
    cells.set(cell, before ? withEnds(edit, before.before, edit.after) : edit);
  }
  return [...cells.values()].filter((edit) => !sameValue(edit.before, edit.after)).sort(inCellOrder);
}

/** Edits of things, one after the other, as one a thing. @throws RangeError when edits of a thing do not meet */
function joinThings(first: Parts["things"], then: Iterable<ThingEdit>): Parts["things"] {
  const out = new Map(first);
  for (const edit of then) {
    const key = thingKey(edit);
    const before = out.get(key);
    if (before && !sameThing(before.after, edit.before)) throw new RangeError(`edits of ${key} do not meet`);
    const joined = before ? withEnds({ ...edit, about: before.about ?? edit.about }, before.before, edit.after) : edit;
    if (sameThing(joined.before, joined.after)) out.delete(key);
    else out.set(key, joined);
  }
  return out;
}

/**
 * @param edits of messages, in the order they happened
 * @param things the same for things
 * @throws RangeError when consecutive edits of a cell or a thing do not meet.
 */
export function changeOf(edits: Iterable<Edit>, things: Iterable<ThingEdit> = []): Change {
  const byMessage = new Map<MessageId, MessageEdit[]>();
  for (const { message, ...edit } of edits) {
    const list = byMessage.get(message);
    if (list) list.push(edit);
    else byMessage.set(message, [edit]);
  }
  return changeOfMessages(byMessage, things);
}

/**
 * The same from edits already gathered by message.
 * @throws RangeError when consecutive edits of a cell or a thing do not meet, or a message is listed twice.
 */
export function changeOfMessages(
  byMessage: Iterable<readonly [MessageId, readonly MessageEdit[]]>,
  things: Iterable<ThingEdit> = [],
): Change {
  const out = new Map<MessageId, readonly MessageEdit[]>();
  const joined = new Map<readonly MessageEdit[], readonly MessageEdit[]>();
  const seen = new Set<MessageId>();
  for (const [message, edits] of byMessage) {
    if (seen.has(message)) throw new RangeError(`message ${message} is listed twice`);
    seen.add(message);
    let list = joined.get(edits);
    if (!list) joined.set(edits, (list = joinEdits([], edits)));
    if (list.length > 0) out.set(message, list);
  }
  return asChange(out, joinThings(NO_THINGS, things));
}

/** Doing `first`, then `then`, as one change. @throws RangeError when the two do not meet. */
export function compose(first: Change, then: Change): Change {
  if (isEmpty(first)) return then;
  if (isEmpty(then)) return first;
  const out = new Map(first.messages);
  // Shared lists meet shared lists: each pair is joined once, however many messages have it.
  const joined = new Map<readonly MessageEdit[], Map<readonly MessageEdit[], readonly MessageEdit[]>>();
  const join = (earlier: readonly MessageEdit[], edits: readonly MessageEdit[]): readonly MessageEdit[] => {
    let by = joined.get(earlier);
    if (!by) joined.set(earlier, (by = new Map()));
    let list = by.get(edits);
    if (!list) by.set(edits, (list = joinEdits(earlier, edits)));
    return list;
  };
  for (const [message, edits] of then.messages) {
    const earlier = out.get(message);
    const list = earlier ? join(earlier, edits) : edits;
    if (list.length > 0) out.set(message, list);
    else out.delete(message);
  }
  return asChange(out, joinThings(first.things, then.things.values()));
}

/** The change that takes this one back. `compose(c, invert(c))` is empty. */
export function invert(change: Change): Change {
  const turned = new Map<readonly MessageEdit[], readonly MessageEdit[]>();
  const out = new Map<MessageId, readonly MessageEdit[]>();
  for (const [message, edits] of change.messages) {
    let list = turned.get(edits);
    if (!list) turned.set(edits, (list = edits.map((edit) => withEnds(edit, edit.after, edit.before))));
    out.set(message, list);
  }
  const things = [...change.things].map(([key, edit]) => [key, withEnds(edit, edit.after, edit.before)] as const);
  return asChange(out, new Map(things));
}

/**
 * The part of a change for which the tests hold. Lists of which nothing is dropped stay shared.
 * @param keep asked once for each message and each of its edits
 */
export function filterChange(
  change: Change,
  keep: (edit: MessageEdit, message: MessageId) => boolean,
  keepThing: (edit: ThingEdit) => boolean,
): Change {
  const messages = new Map<MessageId, readonly MessageEdit[]>();
  for (const [message, edits] of change.messages) {
    const kept = edits.filter((edit) => keep(edit, message));
    if (kept.length > 0) messages.set(message, kept.length === edits.length ? edits : kept);
  }
  return asChange(messages, new Map([...change.things].filter(([, edit]) => keepThing(edit))));
}

/**
 * The part of a change whose edits are of some kind, without its things. Shared lists are looked at once; where
 * nothing is dropped the messages are those of the change itself, however many.
 */
export function messagesWith(change: Change, keep: (edit: MessageEdit) => boolean): Change {
  const kept = new Map<readonly MessageEdit[], readonly MessageEdit[]>();
  let dropped = false;
  for (const edits of new Set(change.messages.values())) {
    const part = edits.filter(keep);
    kept.set(edits, part.length === edits.length ? edits : part);
    dropped ||= part.length < edits.length;
  }
  if (!dropped) return asChange(change.messages, NO_THINGS);
  const messages = new Map<MessageId, readonly MessageEdit[]>();
  for (const [message, edits] of change.messages) {
    const part = kept.get(edits)!;
    if (part.length > 0) messages.set(message, part);
  }
  return asChange(messages, NO_THINGS);
}

/** How many cells and things the change writes. */
export function countCells(change: Change): number {
  let cells = change.things.size;
  for (const edits of change.messages.values()) cells += edits.length;
  return cells;
}

/** The messages it writes, and those that the things it writes were made from. */
export function touchedBy(change: Change): Set<MessageId> {
  const out = new Set(change.messages.keys());
  for (const { about } of change.things.values()) if (about !== null) out.add(about);
  return out;
}

export function* editsOf(change: Change): Generator<Edit> {
  for (const [message, edits] of change.messages) for (const edit of edits) yield { ...edit, message };
}

/** Keeps one array for all lists of edits that are equal, so that a large change stays small. */
export function sharing(): (edits: readonly MessageEdit[]) => readonly MessageEdit[] {
  const seen = new Map<string, readonly MessageEdit[]>();
  return (edits) => {
    const key = JSON.stringify(edits);
    const kept = seen.get(key);
    if (kept) return kept;
    seen.set(key, edits);
    return edits;
  };
}
