import type { MessageId } from "@/core/id";
import { groupOf, isHead } from "@/core/list";
import { drop, foldKeys, goToPlace, regroup, relist, setFocus } from "./browse";
import { placeOf } from "./places";
import {
  countDecided,
  currentPredicate,
  groupVerdicts,
  isDecided,
  isListed,
  listedRows,
  recountSelection,
} from "./listed";
import { firstOpen } from "./pass-view";
import { mailbox, set, view, type Together } from "./store";

/** Bringing the list up to date after messages changed. */

/** More decided rows than this at once stand under one line: nobody scrolls past hundreds of them. */
const MOST_KEPT_ROWS = 60;
/** A look at one row costs as much as making a new list costs for so many. */
const LOOK_COSTS = 20;

/** What the person has just done, for the rows that leave the list by it. */
export interface Deed {
  /** The run's id. */
  readonly key: string;
  /** What was done to what, as "Archive: 307 from Lists". */
  readonly text: string;
}

/** What happened to a message, for its row: where it went, or that it no longer fits. */
function verdictOf(id: number): string {
  const state = mailbox.state(id as MessageId);
  if (mailbox.leaving.has(id)) return "deleted";
  if (state?.defer) return "→ later";
  const folder = view().directory.folders.find((f) => f.id === state?.folder);
  return folder ? `→ ${folder.path.split("/").at(-1)}` : "done";
}

/** Those that leave the list stay in it as decided: each in its row, or all under one line. */
function keep(leaving: readonly number[], deed: Deed): void {
  const { decided, together } = view();
  if (leaving.length <= MOST_KEPT_ROWS) {
    const next = new Map(decided);
    for (const id of leaving) next.set(id, verdictOf(id));
    set({ decided: next });
    return;
  }
  const ids = new Set(leaving);
  const verdicts = new Set(leaving.map(verdictOf));
  const [verdict] = verdicts;
  const line: Together = { ...deed, ids, verdict: verdicts.size === 1 ? verdict! : "done" };
  const others = together.flatMap((one) => {
    const rest = [...one.ids].filter((id) => !ids.has(id));
    if (rest.length === one.ids.size) return [one];
    return rest.length === 0 ? [] : [{ ...one, ids: new Set(rest) }];
  });
  set({
    decided: new Map([...decided].filter(([id]) => !ids.has(id))),
    together: [...others, line],
    foldedGroups: new Set([...view().foldedGroups, deed.key]),
  });
}

/** Groups of which nothing is left to decide, and that are too long to be scrolled past, show their head alone. */
function foldDecidedGroups(): void {
  const { listing, group } = view();
  if (group === "none") return;
  const decided = groupVerdicts(view());
  const done = listing.groups.filter((one, i) => !one.folded && one.count > MOST_KEPT_ROWS && decided.has(i));
  if (done.length > 0) foldKeys(done.map((one) => one.key));
}

/** So much of the mailbox has changed that a new list is cheaper than looking at each row. */
function reflectMany(touched: ReadonlySet<number>, deed: Deed | null): void {
  const { columns } = mailbox;
  const before = new Uint8Array(columns.count);
  for (const row of listedRows()) before[row] = 1;
  relist();
  if (!deed) return;
  for (const row of listedRows()) before[row] = 0;
  const left = [...touched].filter((id) => before[mailbox.rowOf(id) ?? -1] === 1 && !mailbox.leaving.has(id));
  if (left.length === 0) return;
  keep(left, deed);
  relist();
  foldDecidedGroups();
}

/** A pass keeps all its rows; one that came to its end goes on where something in it is open again. */
function reflectInPass(): void {
  relist();
  const { pass } = view();
  if (pass?.ended && firstOpen() >= 0) set({ pass: { ...pass, ended: false } });
}

/**
 * Those that no longer match stay as decided rows if the person decided them just now; those that match again
 * become plain rows.
 * @param deed what the person has just done; null for what others did, or for what was taken back
 */
export function reflect(touched: ReadonlySet<number>, deed: Deed | null): void {
  if (view().pass) return reflectInPass();
  if (touched.size * LOOK_COSTS > mailbox.columns.count) return reflectMany(touched, deed);
  const matches = currentPredicate();
  const again = new Set<number>();
  let arrives = false;
  const leaving: number[] = [];
  for (const id of touched) {
    const row = mailbox.rowOf(id);
    if (row === undefined) continue;
    mailbox.cursor.row = row;
    const listed = isListed(row);
    if (!mailbox.leaving.has(id) && matches(mailbox.cursor)) {
      again.add(id);
      arrives ||= !listed;
    } else if (listed) leaving.push(id);
  }
  if ([...again].some(isDecided)) {
    const { decided, together } = view();
    set({
      decided: new Map([...decided].filter(([id]) => !again.has(id))),
      together: together.map((one) => ({ ...one, ids: new Set([...one.ids].filter((id) => !again.has(id))) })),
    });
    // Lines that hold fewer are made anew.
    arrives ||= together.length > 0;
  }
  if (deed && leaving.length > 0) keep(leaving, deed);
  const dropped = leaving.filter((id) => !isDecided(id));
  if (arrives || leaving.length > MOST_KEPT_ROWS) {
    relist();
    return foldDecidedGroups();
  }
  if (dropped.length > 0) return drop(mailbox.rowsOf(dropped));
  // A row just decided stays where it is, also where groups are by the folder it has left.
  const { group, listing } = view();
  if (group !== "none" && (group !== "folder" || leaving.length === 0)) return regroup();
  // Rows that only change how they look need no new list.
  set({ version: view().version + 1, matches: listing.messages - countDecided() });
  recountSelection();
}

/** At the end of a pass's queue: on to what was jumped over, else what it came to is shown, and no key acts on mail. */
export function endOfQueue(): void {
  const { pass, listing } = view();
  if (!pass || pass.ended) return;
  const at = firstOpen();
  if (at >= 0) return setFocus(at);
  set({ pass: { ...pass, ended: true } });
  setFocus(listing.items.length);
}

/**
 * The focus goes on to the next message that is not decided; at the end, to one before. From the head of a group
 * it goes to the next head.
 * @param acted the messages that were acted on: where the focus is on none of them, it stays
 */
export function advance(acted: ReadonlySet<number>): void {
  const { listing, focus } = view();
  const { items } = listing;
  const item = items[focus];
  if (item === undefined) return;
  const skipped = view().pass?.skipped;
  const open = (at: number) => {
    const id = items[at] === undefined || items[at]! < 0 ? null : mailbox.idAt(items[at]!);
    return id !== null && !isDecided(id) && !skipped?.has(id);
  };
  if (isHead(item)) {
    if (!listing.members(groupOf(item)).some((row) => acted.has(mailbox.columns.id[row]!))) return;
    for (let at = focus + 1; at < items.length; at++) if (isHead(items[at])) return setFocus(at);
    return;
  }
  if (!acted.has(mailbox.idAt(item)) && open(focus)) return;
  for (let at = focus + 1; at < items.length; at++) if (open(at)) return setFocus(at);
  if (view().pass) return endOfQueue();
  if (open(focus)) return;
  for (let at = focus - 1; at >= 0; at--) if (open(at)) return setFocus(at);
}

/** Puts a message in front: in the place that is open, or else where it is. @returns whether it is there */
export function bringToFront(id: number): boolean {
  const row = mailbox.rowOf(id);
  if (row === undefined) return false;
  if (view().listing.placeOf(row) < 0) {
    const folder = view().directory.folders.find((one) => one.id === mailbox.columns.folder[row]);
    if (folder) goToPlace(placeOf(folder));
  }
  focusFirstOf(new Set([id]));
  set({ opened: true });
  return view().focusId === id;
}

/** Puts the focus on the first of some messages that is listed. */
export function focusFirstOf(ids: ReadonlySet<number>): void {
  let first = Infinity;
  for (const id of ids) {
    const row = mailbox.rowOf(id);
    const place = row === undefined ? -1 : view().listing.placeOf(row);
    if (place >= 0 && place < first) first = place;
  }
  if (first === Infinity) return;
  set({ anchor: null });
  setFocus(first);
}
