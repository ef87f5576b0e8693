import { messageId, type MessageId } from "@/core/id";
import { groupOf, isHead, listingOf, matchingRows, NONE, type Grouping, type ListOrder } from "@/core/list";
import { asksForWords, conditionsIn, readNarrow, textOfIssue, type Checked, type Test } from "@/core/narrow";
import { write } from "./api";
import { listedRows, maskOf, predicateOf, recountSelection, setListed } from "./listed";
import { mailbox, notify, set, view, type View } from "./store";
import { askForWords, waitsForWords } from "./words";

/** Looking: what the list shows and where the focus is. Nothing here changes mail. */

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

const NOTHING: Test = { kind: "not", part: { kind: "all" } };

/** What the list is narrowed by now. Words that are not known yet are asked for, and the list is made anew with them. */
function currentTest(): Test {
  const checked = checkNarrow(expressionOf(view().place, view().conditions));
  if (!checked.ok) return NOTHING;
  const { test } = checked;
  askForWords(test, relist, (error) => {
    set({ searching: false });
    notify(
      `Words in messages could not be searched: ${error instanceof Error ? error.message : "try again"}`,
      "trouble",
    );
  });
  set({ searching: waitsForWords(test), asksWords: asksForWords(test) });
  return test;
}

/**
 * Computes the list anew.
 * @param change what is different about it
 * @param focused the message the focus is to be on
 * @param known the rows it is to hold, where that can be told without looking at the whole mailbox
 */
function rebuild(change: Partial<View>, focused: number | null, known: Int32Array | null = null): void {
  set(change);
  const test = currentTest();
  const { columns, leaving } = mailbox;
  const { order, group, foldedGroups, home, focusGroup } = view();
  // What has been deleted for good is in no list, and so not among the decided rows of this one either.
  const decided = new Map([...view().decided].filter(([id]) => mailbox.rowOf(id) !== undefined));
  const rows = known ?? matchingRows(maskOf(test), mailbox.rowsOf(decided.keys()), mailbox.rowsOf(leaving));
  setListed(rows, predicateOf(test));
  const arrangement = { order, group, folded: foldedGroups };
  const listing = listingOf(columns, rows, arrangement, home?.person.zone ?? "UTC");
  set({ listing, decided, matches: listing.messages - decided.size, version: view().version + 1 });
  const row = focused === null ? undefined : mailbox.rowOf(focused);
  const head = focused === null ? listing.groups.findIndex((one) => one.key === focusGroup) : -1;
  const place = row !== undefined ? listing.placeOf(row) : head >= 0 ? listing.items.indexOf(-1 - head) : -1;
  const last = listing.items.length - 1;
  setFocus(place >= 0 ? place : Math.min(Math.max(0, view().focus), last));
  recountSelection();
}

/** Computes the list anew, and keeps the focus on the message it is on. */
export const relist = (): void => rebuild({}, view().focusId);

/** The same rows in groups made anew: their heads say how many are unread. */
export const regroup = (): void => rebuild({}, view().focusId, listedRows());

/** The same where some rows only leave it: the rest of a mailbox of a million need not be looked at. */
export function drop(leaving: Iterable<number>): void {
  const left = new Uint8Array(mailbox.columns.count);
  for (const row of leaving) left[row] = 1;
  rebuild(
    {},
    view().focusId,
    listedRows().filter((row) => left[row] === 0),
  );
}

/** Puts the focus on a place of the list. */
export function setFocus(place: number): void {
  const { items, groups } = view().listing;
  const item = items[place];
  if (item === undefined) set({ focus: place, focusId: null, focusGroup: null });
  else if (isHead(item)) set({ focus: place, focusId: null, focusGroup: groups[groupOf(item)]?.key ?? null });
  else set({ focus: place, focusId: mailbox.idAt(item), focusGroup: null });
}

export const focusedId = (): MessageId | null => {
  const { focusId } = view();
  return focusId === null ? null : messageId(focusId);
};

/** The number of the group whose head has the focus; null when none has. */
export function focusedGroup(): number | null {
  const { listing, focus } = view();
  const item = listing.items[focus];
  return isHead(item) ? groupOf(item!) : null;
}

const FRESH = {
  anchor: null,
  selection: NONE,
  selected: 0,
  narrowing: false,
  focus: 0,
  focusId: null,
  focusGroup: null,
  opened: false,
  rackOpen: false,
} as const;

function show(place: string, conditions: readonly string[], focused: number | null, more: Partial<View> = {}): void {
  rebuild({ ...FRESH, place, conditions, decided: new Map(), ...more }, focused);
}

/** Shows another place from its top, as a plain list. */
export const goToPlace = (place: string): void =>
  show(place, [], null, { batch: null, group: "none", foldedGroups: new Set() });

/** Shows a batch as it was saved. */
export function goToBatch(id: number): void {
  const batch = view().home?.batches.find((one) => one.id === id);
  if (!batch) return;
  const { narrow, order, group, deck } = batch;
  show(narrow, [], null, { batch: id, order, group, foldedGroups: new Set(), ...(deck === null ? {} : { deck }) });
}

/** Adds conditions; what is written as "a & b" becomes two. @returns what is wrong with it, or null */
export function narrowBy(condition: string): string | null {
  const text = condition.trim();
  if (text === "") {
    set({ narrowing: false });
    return null;
  }
  const checked = checkNarrow(text);
  if (!checked.ok) return checked.issues.map(textOfIssue).join(" ");
  show(view().place, [...view().conditions, ...conditionsIn(text)], focusedId());
  // That it can be had again is a convenience: nothing is said when it cannot be noted.
  void write("POST", "/narrowings", { text }).catch(() => undefined);
  return null;
}

/** Puts other conditions in the place of those there are. */
export const narrowTo = (conditions: readonly string[]): void => show(view().place, conditions, focusedId());

/** Drops the condition with that number, or the last one; then the place itself. */
export function widen(index = view().conditions.length - 1): void {
  const { conditions, place } = view();
  if (conditions.length > 0) narrowTo(conditions.filter((_, i) => i !== index));
  else if (place !== "") show("", [], focusedId(), { batch: null });
}

export const setOrder = (order: ListOrder): void => rebuild({ order }, focusedId());
export const setGrouping = (group: Grouping): void => rebuild({ group, foldedGroups: new Set() }, focusedId());

/** Oldest first or newest first; from any other order to oldest first. */
export const changeOrder = (): void => setOrder(view().order === "oldest" ? "newest" : "oldest");

/** Folds or unfolds the group that has the focus, or whose message has. */
export function foldGroup(): boolean {
  const { listing, focus, foldedGroups } = view();
  let at = focus;
  while (at >= 0 && !isHead(listing.items[at])) at--;
  const group = at < 0 ? undefined : listing.groups[groupOf(listing.items[at]!)];
  if (!group) return false;
  const next = new Set(foldedGroups);
  if (!next.delete(group.key)) next.add(group.key);
  set({ focusGroup: group.key });
  rebuild({ foldedGroups: next }, null);
  return true;
}

/** Folds every group, or unfolds all when all are folded. */
export function foldAllGroups(): void {
  const { listing, foldedGroups } = view();
  const keys = listing.groups.map((group) => group.key);
  const next = keys.every((key) => foldedGroups.has(key)) ? [] : keys;
  rebuild({ foldedGroups: new Set(next) }, null);
}

/** Takes decided messages out of the list. */
export function sweep(): void {
  const { listing, focus, decided } = view();
  if (decided.size === 0) return;
  // The focus goes to the next message that stays.
  const { items } = listing;
  let at = focus;
  while (at < items.length && (isHead(items[at]) || decided.has(mailbox.idAt(items[at]!)))) at++;
  const next = at < items.length ? mailbox.idAt(items[at]!) : null;
  if (next === null) set({ focus: items.length, focusId: null });
  rebuild({ decided: new Map() }, next);
}

/** Puts the focus on a message if the list shows it. */
export function focusMessage(id: number): boolean {
  const row = mailbox.rowOf(id);
  const place = row === undefined ? -1 : view().listing.placeOf(row);
  if (place < 0) return false;
  set({ anchor: null });
  setFocus(place);
  return true;
}
