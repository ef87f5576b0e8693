import { messageId, type MessageId } from "@/core/id";
import { matcher, readNarrow, textOfIssue, type Checked } from "@/core/narrow";
import { listRows, placeOf, type Order, type Predicate } from "./list";
import { mailbox, set, view } from "./store";

/** Looking and selecting: nothing here changes mail. */

/** A place and its conditions as one expression. */
export const expressionOf = (place: string, conditions: readonly string[]): string =>
  [place, ...conditions]
    .filter(Boolean)
    .map((part) => (/[|]/.test(part) ? `(${part})` : part))
    .join(" & ");

export function checkNarrow(source: string): Checked {
  const { directory, home } = view();
  return readNarrow(source, { directory, now: new Date(), zone: home?.person.zone ?? "UTC" });
}

let current: Predicate = () => true;
export const currentPredicate = (): Predicate => current;

function refreshPredicate(): void {
  const checked = checkNarrow(expressionOf(view().place, view().conditions));
  current = checked.ok ? matcher(checked.test) : () => false;
}

/** Computes the list anew, and keeps the focus on the message it is on. */
export function relist(): void {
  const { focusId, order, decided } = view();
  relistWith(focusId, order, decided);
}

function relistWith(focused: number | null, order: Order, decided: ReadonlyMap<number, string>): void {
  refreshPredicate();
  const rows = listRows(mailbox, current, decided, order);
  const row = focused === null ? undefined : mailbox.rowOf(focused);
  const place = row === undefined ? -1 : placeOf(rows, row, order);
  const focus = rows.length === 0 ? -1 : place >= 0 ? place : Math.min(Math.max(0, view().focus), rows.length - 1);
  set({ rows, order, decided, matches: rows.length - decided.size, version: view().version + 1 });
  setFocus(focus);
}

/** Puts the focus on a place of the list. */
export function setFocus(place: number): void {
  const row = view().rows[place];
  set({ focus: place, focusId: row === undefined ? null : mailbox.idAt(row) });
}

const focusedId = (): MessageId | null => {
  const { focusId } = view();
  return focusId === null ? null : messageId(focusId);
};

function show(place: string, conditions: readonly string[], focused: number | null): void {
  set({
    place,
    conditions,
    anchor: null,
    ticked: new Set(),
    narrowing: false,
    focus: 0,
    focusId: null,
    opened: false,
    rackOpen: false,
  });
  relistWith(focused, view().order, new Map());
}

/** Shows another place from its top. */
export const goToPlace = (place: string): void => show(place, [], null);

/** Adds a condition. @returns what is wrong with it, or null */
export function narrowBy(condition: string): string | null {
  const text = condition.trim();
  if (text === "") {
    set({ narrowing: false });
    return null;
  }
  const checked = checkNarrow(text);
  if (!checked.ok) return checked.issues.map(textOfIssue).join(" ");
  show(view().place, [...view().conditions, text], focusedId());
  return null;
}

/** Drops the condition with that number, or the last one. */
export function widen(index = view().conditions.length - 1): void {
  const { conditions, place } = view();
  if (conditions.length > 0)
    show(
      place,
      conditions.filter((_, i) => i !== index),
      focusedId(),
    );
  else if (place !== "") show("", [], focusedId());
}

export function changeOrder(): void {
  relistWith(focusedId(), view().order === "oldest" ? "newest" : "oldest", view().decided);
}

/** Takes decided messages out of the list. */
export function sweep(): void {
  const { rows, focus, decided, order } = view();
  if (decided.size === 0) return;
  // The focus goes to the next message that stays.
  let at = focus;
  while (at < rows.length && decided.has(mailbox.idAt(rows[at]!))) at++;
  const next = at < rows.length ? mailbox.idAt(rows[at]!) : null;
  if (next === null) set({ focus: rows.length, focusId: null });
  relistWith(next, order, new Map());
}

const rangeIds = (a: number, b: number): number[] => {
  const { rows, decided } = view();
  const ids: number[] = [];
  for (let i = Math.min(a, b); i <= Math.max(a, b); i++) {
    const id = rows[i] === undefined ? undefined : mailbox.columns.id[rows[i]!];
    if (id !== undefined && !decided.has(id)) ids.push(id);
  }
  return ids;
};

/** Moves the focus to a place in the list; extending, everything between the anchor and it is ticked. */
export function moveTo(place: number, extend: boolean): void {
  const { rows, focus, anchor, ticked } = view();
  if (rows.length === 0) return;
  const to = Math.max(0, Math.min(rows.length - 1, place));
  if (!extend) {
    set({ anchor: null });
    setFocus(to);
    return;
  }
  const from = anchor ?? focus;
  // The range shrinks as the focus comes back: what it held before is taken out first.
  const next = new Set(ticked);
  if (anchor !== null) for (const id of rangeIds(from, focus)) next.delete(id);
  for (const id of rangeIds(from, to)) next.add(id);
  set({ anchor: from, ticked: next });
  setFocus(to);
}

export const moveBy = (steps: number, extend: boolean): void => moveTo(view().focus + steps, extend);

export function tick(place = view().focus): void {
  const { rows, ticked, decided } = view();
  const id = rows[place] === undefined ? undefined : mailbox.columns.id[rows[place]!];
  if (id === undefined || decided.has(id)) return;
  const next = new Set(ticked);
  if (!next.delete(id)) next.add(id);
  set({ ticked: next, anchor: null });
}

export function tickAll(): void {
  set({ ticked: new Set(rangeIds(0, view().rows.length - 1)), anchor: null });
}

export function clearTicks(): boolean {
  if (view().ticked.size === 0) return false;
  set({ ticked: new Set(), anchor: null });
  return true;
}

/** What a macro acts on: the ticked messages, or else the one with the focus, unless it is decided. */
export function targetIds(): MessageId[] {
  const { ticked, decided } = view();
  if (ticked.size > 0) return [...ticked].map(messageId);
  const id = focusedId();
  return id === null || decided.has(id) ? [] : [id];
}

/** Puts the focus on a message if the list shows it. */
export function focusMessage(id: number): boolean {
  const row = mailbox.rowOf(id);
  const { rows, order } = view();
  const place = row === undefined ? -1 : placeOf(rows, row, order);
  if (place < 0) return false;
  set({ anchor: null });
  setFocus(place);
  return true;
}
