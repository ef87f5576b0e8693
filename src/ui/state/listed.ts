import { columnSeekers, Masks } from "@/core/columns";
import { countSelected, searched, type Selection } from "@/core/list";
import { matcher, type Predicate, type Test } from "@/core/narrow";
import { mailbox, set, view, type View } from "./store";
import { wordsKnown } from "./words";

/** What the list holds, apart from how it is shown: the rows that match, and what decides whether one does. */

/** A checked expression as a predicate over the mailbox's rows, as they are numbered now: for a look at single ones. */
export const predicateOf = (test: Test): Predicate =>
  matcher(test, columnSeekers(mailbox.columns, mailbox.cursor, wordsKnown));

/** Which rows match, all at once. */
export const maskOf = (test: Test): Uint8Array =>
  new Masks(mailbox.columns, mailbox.rows, wordsKnown, mailbox.cursor.openTasks).of(test);

let current: Predicate = () => true;
export const currentPredicate = (): Predicate => current;

/** Rows of the list, oldest first, also those of folded groups and decided ones. */
let listed: Int32Array = new Int32Array();
let placeAmong: (row: number) => number = () => -1;
export const listedRows = (): Int32Array => listed;

export function setListed(rows: Int32Array, predicate: Predicate): void {
  listed = rows;
  placeAmong = searched(rows, true);
  current = predicate;
}

/** Whether the list holds a row, be it in a folded group. */
export const isListed = (row: number): boolean => placeAmong(row) >= 0;

/** What became of a message of the list; undefined for one that is not decided. */
export function verdictFor(id: number): string | undefined {
  const { decided, together } = view();
  return decided.get(id) ?? together.find(({ ids }) => ids.has(id))?.verdict;
}

export const isDecided = (id: number): boolean => verdictFor(id) !== undefined;

/** How many messages of the list are decided. */
export function countDecided({ decided, together }: Pick<View, "decided" | "together"> = view()): number {
  return together.reduce((sum, { ids }) => sum + ids.size, decided.size);
}

/** What was decided about groups of which nothing is left to decide, by their numbers. */
export function groupVerdicts({
  listing,
  decided,
  together,
}: Pick<View, "listing" | "decided" | "together">): ReadonlyMap<number, string> {
  const out = new Map<number, string>();
  if (listing.groups.length === 0) return out;
  const counts = new Map<number, number>();
  const note = (id: number, verdict: string) => {
    const group = listing.groupIn(mailbox.rowOf(id) ?? -1);
    if (group < 0) return;
    counts.set(group, (counts.get(group) ?? 0) + 1);
    out.set(group, out.has(group) && out.get(group) !== verdict ? "decided" : verdict);
  };
  for (const [id, verdict] of decided) note(id, verdict);
  for (const { ids, verdict } of together) for (const id of ids) note(id, verdict);
  for (const [group, count] of counts) if (count < listing.groups[group]!.count) out.delete(group);
  return out;
}

/** Messages of the list, oldest first; without those that are decided, or with them. */
export function* listedIds(withDecided = false): Generator<number> {
  for (const row of listed) {
    const id = mailbox.columns.id[row]!;
    if (withDecided || !isDecided(id)) yield id;
  }
}

/** How many messages a selection holds, without a walk over the list where that can be told. */
export function countOf(selection: Selection): number {
  // What was ticked one by one may be decided already: it can be decided again.
  if (selection.kind === "some") return countSelected(selection, listedIds(true));
  if (mailbox.largestId > selection.through) return countSelected(selection, listedIds());
  return view().matches - selection.except.size;
}

/** The list is another one: what a selection leaves out counts only where it is still listed. */
export function recountSelection(): void {
  const { selection } = view();
  if (selection.kind === "some" || selection.except.size === 0) return set({ selected: countOf(selection) });
  const except = new Set<number>();
  for (const id of listedIds()) if (selection.except.has(id)) except.add(id);
  const next = { ...selection, except };
  set({ selection: next, selected: countOf(next) });
}
