import { messageId, type MessageId } from "@/core/id";
import {
  groupOf,
  isEmpty,
  isHead,
  listingOf,
  matchingRows,
  NONE,
  selectedIds,
  type Grouping,
  type ListOrder,
  type Selection,
} from "@/core/list";
import {
  asksForTasks,
  asksForWords,
  conditionsIn,
  readNarrow,
  textOfIssue,
  type Checked,
  type Test,
} from "@/core/narrow";
import { countText, plural } from "../parts/words";
import { write } from "./api";
import { arrange, arrangedAt, keepPlace } from "./arranged";
import {
  countDecided,
  isDecided,
  listedIds,
  listedRows,
  maskOf,
  predicateOf,
  recountSelection,
  setListed,
} from "./listed";
import { askForTasks, waitsForTasks } from "./open-tasks";
import { rowsOf, verdictsOf } from "./pass-view";
import { DEFERRED } from "./places";
import { mailbox, notify, set, view, type View } from "./store";
import { askWhatIsJunk, junkOf } from "./guesses";
import { askWhoIsKnown, weigh } from "./weigh";
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
  const { place, conditions, typing } = view();
  const checked = checkNarrow(expressionOf(place, [...conditions, typing]));
  if (!checked.ok) return NOTHING;
  const { test } = checked;
  askForWords(test, relist, (error) => {
    set({ searching: false });
    notify(
      `Words in messages could not be searched: ${error instanceof Error ? error.message : "try again"}`,
      "trouble",
    );
  });
  askForTasks(test, relistTasks);
  set({ searching: waitsForWords(test) || waitsForTasks(test), asksWords: asksForWords(test) });
  return test;
}

/** Tasks changed: the list is another one where it asks for them. */
function relistTasks(): void {
  const { place, conditions, typing, loading } = view();
  const checked = checkNarrow(expressionOf(place, [...conditions, typing]));
  if (loading === null && checked.ok && asksForTasks(checked.test)) relist();
}

/**
 * Computes the list anew.
 * @param change what is different about it
 * @param focused the message the focus is to be on
 * @param known the rows it is to hold, where that can be told without looking at the whole mailbox
 */
function rebuild(change: Partial<View>, focused: number | null, known: Int32Array | null = null): void {
  set(change);
  const { pass } = view();
  const test = currentTest();
  const { columns, leaving } = mailbox;
  const { order, group, foldedGroups, home, focusGroup } = view();
  // A pass goes through what it was begun with, whatever matches now.
  const given = pass ? rowsOf(pass) : known;
  const mask = given ? null : maskOf(test);
  // Decided is what stays although it does not match; what was deleted for good is in no list.
  const stays = (id: number) => {
    const row = mailbox.rowOf(id);
    return row !== undefined && mask?.[row] !== 1;
  };
  const decided = pass ? verdictsOf(pass) : new Map([...view().decided].filter(([id]) => stays(id)));
  const together = view().together.flatMap((one) => {
    const ids = new Set([...one.ids].filter(stays));
    return ids.size === 0 ? [] : [ids.size === one.ids.size ? one : { ...one, ids }];
  });
  const keeps = [decided.keys(), ...together.map(({ ids }) => ids)].flatMap((ids) => [...mailbox.rowsOf(ids)]);
  const rows = given ?? matchingRows(mask!, keeps, mailbox.rowsOf(leaving));
  setListed(rows, predicateOf(test));
  const gathered = together.map(({ key, ids }) => ({ key, rows: mailbox.rowsOf(ids) }));
  const now = Date.now();
  if (order === "importance") askWhoIsKnown(relist);
  if (order === "likely junk") askWhatIsJunk(rows, relist);
  const weightOf =
    order === "importance"
      ? (row: number) => weigh(row, now).weight
      : order === "likely junk"
        ? (row: number) => junkOf(columns.id[row]!)?.percent ?? -1
        : undefined;
  const arrangement = {
    order,
    group,
    folded: foldedGroups,
    pinned: !pass && (home?.settings.pinnedFirst ?? false),
    gathered,
    weightOf,
  };
  const listing = listingOf(columns, rows, arrangement, home?.person.zone ?? "UTC");
  const matches = listing.messages - countDecided({ decided, together });
  set({ listing, decided, together, matches, version: view().version + 1 });
  const row = focused === null ? undefined : mailbox.rowOf(focused);
  const head = focused === null ? listing.groups.findIndex((one) => one.key === focusGroup) : -1;
  const place = row !== undefined ? listing.placeOf(row) : head >= 0 ? listing.items.indexOf(-1 - head) : -1;
  const last = listing.items.length - (pass?.ended ? 0 : 1);
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
  pass: null,
  anchor: null,
  narrowing: false,
  typing: "",
  focus: 0,
  focusId: null,
  focusGroup: null,
  opened: false,
  rackOpen: false,
  decided: new Map<number, string>(),
  together: [],
  notDone: new Map<number, string>(),
};

/** What was decided here is settled with leaving; where it was left is kept. */
function show(place: string, conditions: readonly string[], focused: number | null, more: Partial<View> = {}): void {
  rebuild({ ...FRESH, place, conditions, ...more }, focused);
}

const UNTICKED = { selection: NONE, selected: 0 };

/** Shows another place as the person left it. */
export function goToPlace(place: string, conditions: readonly string[] = []): void {
  keepPlace();
  const { order, group, folded, at, head } = arrangedAt(place, null);
  const usual = place === DEFERRED ? "comes back" : (view().home?.settings.order ?? "newest");
  show(place, conditions, at, {
    ...UNTICKED,
    batch: null,
    order: order ?? usual,
    group: group ?? "none",
    foldedGroups: new Set(folded),
    focusGroup: head,
  });
}

/** Shows a batch as it was saved, but for what the person has arranged otherwise since. */
export function goToBatch(id: number, conditions: readonly string[] = []): void {
  const batch = view().home?.batches.find((one) => one.id === id);
  if (!batch) return;
  keepPlace();
  const { order, group, folded, at, head } = arrangedAt(batch.narrow, id);
  show(batch.narrow, conditions, at, {
    ...UNTICKED,
    batch: id,
    order: order ?? batch.order,
    group: group ?? batch.group,
    foldedGroups: new Set(folded),
    focusGroup: head,
    ...(batch.deck === null ? {} : { deck: batch.deck }),
  });
}

/**
 * The same place under other conditions: what is ticked stays so where it is listed still, and how many are not
 * is said.
 */
function renarrow(place: string, conditions: readonly string[], more: Partial<View> = {}): void {
  const { selection, selected } = view();
  // A whole list that grows was not meant.
  const kept: Selection =
    selection.kind === "some" || isEmpty(selection)
      ? selection
      : { kind: "some", ids: new Set(selectedIds(selection, listedIds())) };
  show(place, conditions, focusedId(), { ...more, selection: kept, focusGroup: view().focusGroup });
  if (kept.kind !== "some" || kept.ids.size === 0) return;
  const there = new Set(selectedIds(kept, listedIds(true)));
  set({ selection: { kind: "some", ids: there }, selected: there.size });
  const dropped = selected - there.size;
  if (dropped > 0)
    notify(`${plural(there.size, "message")} still selected; ${countText(dropped)} are not in this list.`);
}

/** Words are asked of the server once nothing was typed for so long. */
const TYPED_MS = 250;
let typed: ReturnType<typeof setTimeout> | undefined;

/** Shows what a condition would leave while it is typed; one that cannot be read yet leaves the list as it is. */
export function preview(text: string): void {
  clearTimeout(typed);
  const typing = text.trim();
  if (typing === view().typing) return;
  const checked = checkNarrow(typing);
  if (!checked.ok) return;
  const show = () => rebuild({ typing }, focusedId());
  if (asksForWords(checked.test)) typed = setTimeout(show, TYPED_MS);
  else show();
}

/** Nothing is typed any more: the list and the focus are as they were. */
export function endPreview(focused: number | null): void {
  clearTimeout(typed);
  if (view().typing !== "") rebuild({ typing: "" }, focused);
}

/** Adds conditions; what is written as "a & b" becomes two. @returns what is wrong with it, or null */
export function narrowBy(condition: string): string | null {
  clearTimeout(typed);
  const text = condition.trim();
  if (text === "") {
    set({ narrowing: false });
    return null;
  }
  const checked = checkNarrow(text);
  if (!checked.ok) return checked.issues.map(textOfIssue).join(" ");
  renarrow(view().place, [...view().conditions, ...conditionsIn(text)]);
  // That it can be had again is a convenience: nothing is said when it cannot be noted.
  void write("POST", "/narrowings", { text }).catch(() => undefined);
  return null;
}

/** Puts other conditions in the place of those there are. */
export const narrowTo = (conditions: readonly string[]): void => renarrow(view().place, conditions);

/** Drops the condition with that number, or the last one. The place itself stays. */
export function widen(index = view().conditions.length - 1): void {
  const { conditions } = view();
  if (conditions.length > 0) narrowTo(conditions.filter((_, i) => i !== index));
  else notify("There is no condition to drop. To see another place, press ; .");
}

export function setOrder(order: ListOrder): void {
  rebuild({ order }, focusedId());
  arrange({ order });
}
export function setGrouping(group: Grouping): void {
  rebuild({ group, foldedGroups: new Set(view().together.map(({ key }) => key)) }, focusedId());
  arrange({ group, folded: [] });
}

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
  arrange({ folded: [...next] });
  set({ focusGroup: group.key });
  rebuild({ foldedGroups: next }, null);
  return true;
}

/** Folds every group, or unfolds all when all are folded. */
export function foldAllGroups(): void {
  const { listing, foldedGroups } = view();
  const keys = listing.groups.map((group) => group.key);
  const next = keys.every((key) => foldedGroups.has(key)) ? [] : keys;
  arrange({ folded: next });
  rebuild({ foldedGroups: new Set(next) }, null);
}

/** Folds groups, without moving the focus from where it is. */
export function foldKeys(keys: readonly string[]): void {
  rebuild({ foldedGroups: new Set([...view().foldedGroups, ...keys]) }, view().focusId);
}

/** Settles what was decided: lets go of its rows, and of what is noted at others. */
export function settle(): void {
  const { listing, focus } = view();
  if (countDecided() === 0) return set({ notDone: new Map() });
  // The focus goes to the next message that stays.
  const { items } = listing;
  let at = focus;
  while (at < items.length && (isHead(items[at]) || isDecided(mailbox.idAt(items[at]!)))) at++;
  const next = at < items.length ? mailbox.idAt(items[at]!) : null;
  if (next === null) set({ focus: items.length, focusId: null });
  rebuild({ decided: new Map(), together: [], notDone: new Map() }, next);
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
