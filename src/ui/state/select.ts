import { messageId, type MessageId } from "@/core/id";
import {
  all,
  groupOf,
  inverted,
  isEmpty,
  isHead,
  isSelected,
  NONE,
  selectedIds,
  toggled,
  withIds,
  type Selection,
} from "@/core/list";
import type { RunTarget } from "@/core/api";
import { STATE_BIT } from "@/core/columns";
import { TRAIT } from "@/core/narrow";
import { expressionOf, focusedGroup, focusedId, setFocus } from "./browse";
import { countOf, isDecided, listedIds, listedRows } from "./listed";
import { mailbox, notify, set, view } from "./store";

/** Selecting: the focus with Shift, ticks, and whole lists as a description of them. */

const select = (selection: Selection, more: { anchor: number | null } = { anchor: null }): void =>
  set({ selection, selected: countOf(selection), ...more });

/** Selects some messages, and nothing else. */
export const selectMessages = (ids: readonly number[]): void => select({ kind: "some", ids: new Set(ids) });

/** Messages in rows, without those that are decided. */
const idsOf = (rows: Iterable<number>): number[] =>
  [...rows].map((row) => mailbox.columns.id[row]!).filter((id) => !isDecided(id));

/** The messages in rows that are still to be decided; where none is, all of them: they are decided again. */
function openIn(rows: readonly number[]): number[] {
  const open = idsOf(rows);
  return open.length > 0 ? open : rows.map((row) => mailbox.columns.id[row]!);
}

const membersOf = (group: number): number[] => openIn(view().listing.members(group));

/** Messages between two places of the list, those of folded groups among them. */
function rangeIds(a: number, b: number): number[] {
  const { items, groups, members } = view().listing;
  const rows: number[] = [];
  for (let i = Math.max(0, Math.min(a, b)); i <= Math.max(a, b); i++) {
    const item = items[i];
    if (item === undefined) continue;
    if (!isHead(item)) rows.push(item);
    else if (groups[groupOf(item)]!.folded) rows.push(...members(groupOf(item)));
  }
  return openIn(rows);
}

/** Moves the focus to a place in the list; extending, everything between the anchor and it is selected. */
export function moveTo(place: number, extend: boolean): void {
  const { listing, focus, anchor, selection } = view();
  const { length } = listing.items;
  if (length === 0) return;
  const to = Math.max(0, Math.min(length - 1, place));
  if (!extend) {
    set({ anchor: null });
    return setFocus(to);
  }
  const from = anchor ?? focus;
  // The range shrinks as the focus comes back: what it held before is taken out first.
  const without = anchor === null ? selection : withIds(selection, rangeIds(from, focus), false);
  select(withIds(without, rangeIds(from, to), true), { anchor: from });
  setFocus(to);
}

export const moveBy = (steps: number, extend: boolean): void => moveTo(view().focus + steps, extend);

/** Ticks or unticks a message; on the head of a group all of its messages, unless all are ticked. */
export function tick(place = view().focus): void {
  const { listing, selection } = view();
  const item = listing.items[place];
  if (item === undefined) return;
  if (isHead(item)) {
    const ids = membersOf(groupOf(item));
    return select(withIds(selection, ids, !ids.every((id) => isSelected(selection, id))));
  }
  select(toggled(selection, mailbox.columns.id[item]!));
}

/** Selects the whole list, however long: as a description of it. */
export const tickAll = (): void => select(all(mailbox.largestId));

export function clearTicks(): boolean {
  if (isEmpty(view().selection)) return false;
  select(NONE);
  return true;
}

export const tickedAt = (selection: Selection, id: number): boolean => isSelected(selection, id);

/** Ways to select more at a stroke. Most say "like the focused message". */
export const SELECT_BY = {
  sender: "all from this sender",
  domain: "all from this sender's domain",
  list: "all of this mailing list",
  thread: "the whole thread",
  subject: "all with this subject",
  unread: "all unread",
  read: "all read",
  flagged: "all flagged",
  marker: "all with this marker, or without one",
  label: "all with a label of this one",
  attachment: "all with attachments",
  older: "this one and everything older",
  newer: "this one and everything newer",
  larger: "this one and everything larger",
  group: "all of this group",
  all: "the whole list",
  invert: "invert: what is not selected",
} as const;
export type SelectBy = keyof typeof SELECT_BY;

/** Whether a row is like the focused one. */
function likeFocused(by: Exclude<SelectBy, "group" | "all" | "invert">, focused: number): (row: number) => boolean {
  const { columns } = mailbox;
  const same = (read: (row: number) => string | number) => {
    const wanted = read(focused);
    return (row: number) => read(row) === wanted;
  };
  const address = (row: number) => mailbox.text(row, "fromAddress").toLowerCase();
  switch (by) {
    case "sender":
      return same(address);
    case "domain":
      return same((row) => address(row).split("@")[1] ?? "");
    case "list":
      return mailbox.text(focused, "list") === ""
        ? () => false
        : same((row) => mailbox.text(row, "list").toLowerCase());
    case "thread":
      return same((row) => columns.thread[row]!);
    case "subject":
      return same((row) => mailbox.subjectKey(row));
    case "unread":
      return (row) => (columns.bits[row]! & 1) === 0;
    case "read":
      return (row) => (columns.bits[row]! & 1) === 1;
    case "flagged":
      return (row) => (columns.bits[row]! & STATE_BIT.flagged) !== 0;
    case "attachment":
      return (row) => (columns.traits[row]! & TRAIT.attachment) !== 0;
    case "marker":
      return same((row) => columns.marker[row]!);
    case "label": {
      const labels = new Set(columns.labelSets[columns.labelSet[focused]!]);
      const sets = columns.labelSets.map((set) => set.some((label) => labels.has(label)));
      return (row) => sets[columns.labelSet[row]!]!;
    }
    case "larger":
      return (row) => columns.size[row]! >= columns.size[focused]!;
    case "older":
      return (row) => row <= focused;
    case "newer":
      return (row) => row >= focused;
  }
}

export function selectBy(by: SelectBy): void {
  const { selection, focusId } = view();
  if (by === "all") return tickAll();
  if (by === "invert") return select(inverted(selection, mailbox.largestId));
  if (by === "group") {
    const { listing, focus } = view();
    let at = focus;
    while (at >= 0 && !isHead(listing.items[at])) at--;
    if (at < 0) return notify("The list is not grouped. Group it first, with Shift+\\.");
    return select(withIds(selection, idsOf(listing.members(groupOf(listing.items[at]!))), true));
  }
  const focused = focusId === null ? undefined : mailbox.rowOf(focusId);
  if (focused === undefined) return notify("Put the focus on a message first.");
  const like = likeFocused(by, focused);
  const ids = idsOf(listedRows().filter(like));
  if (ids.length === 0) {
    const why = { list: "This message came from no mailing list.", label: "This message has no label." };
    return notify(by === "list" || by === "label" ? why[by] : "No message is like that.");
  }
  select(withIds(selection, ids, true));
}

/** What a macro acts on: what is selected, or the group whose head has the focus, or the message that has it. */
export function targetIds(): MessageId[] {
  const { selection } = view();
  // What was ticked one by one is meant, also where it is decided: it is decided again.
  if (!isEmpty(selection)) return [...selectedIds(selection, listedIds(selection.kind === "some"))].map(messageId);
  const group = focusedGroup();
  if (group !== null) return membersOf(group).map(messageId);
  const id = focusedId();
  return id === null ? [] : [id];
}

/** The selection as a description, where it is one: a run on it is one short request. */
export function targetDescription(): Exclude<RunTarget, { ids: unknown }> | null {
  const { selection, place, conditions, pass, loading } = view();
  // All of a pass are those of its queue, whatever matches where it was begun.
  // While the mailbox is being read, what was counted and shown is less than a description means.
  if (selection.kind === "some" || pass || loading !== null) return null;
  const { through, except } = selection;
  return { narrow: expressionOf(place, conditions), except: [...except], through };
}
