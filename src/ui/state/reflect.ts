import type { MessageId } from "@/core/id";
import { drop, regroup, relist, setFocus } from "./browse";
import { currentPredicate, isListed, recountSelection } from "./listed";
import { mailbox, set, view } from "./store";

/** Bringing the list up to date after messages changed. */

/** More decided rows than this at once are swept away: nobody scrolls past hundreds of them. */
const MOST_KEPT_ROWS = 60;
/** A look at one row costs as much as making a new list costs for so many. */
const LOOK_COSTS = 20;

/** What happened to a message, for its row: where it went, or that it no longer fits. */
function verdictOf(id: MessageId): string {
  const state = mailbox.state(id);
  if (mailbox.leaving.has(id)) return "deleted";
  if (state?.defer) return "→ later";
  const folder = view().directory.folders.find((f) => f.id === state?.folder);
  return folder ? `→ ${folder.path.split("/").at(-1)}` : "done";
}

/**
 * Those that no longer match stay as decided rows if the person decided them just now; those that match again
 * become plain rows.
 */
export function reflect(touched: ReadonlySet<number>, own: boolean): void {
  // So much of the mailbox changes at once that a new list is cheaper than looking at each row.
  if (touched.size * LOOK_COSTS > mailbox.columns.count) return relist();
  const { decided, listing } = view();
  const matches = currentPredicate();
  const next = new Map(decided);
  let arrives = false;
  const leaving: number[] = [];
  for (const id of touched) {
    const row = mailbox.rowOf(id);
    if (row === undefined) continue;
    mailbox.cursor.row = row;
    const listed = isListed(row);
    if (!mailbox.leaving.has(id) && matches(mailbox.cursor)) {
      next.delete(id);
      arrives ||= !listed;
    } else if (listed) leaving.push(id);
  }
  if (own && leaving.length <= MOST_KEPT_ROWS) for (const id of leaving) next.set(id, verdictOf(id as MessageId));
  const dropped = leaving.filter((id) => !next.has(id));
  set({ decided: next });
  if (arrives) return relist();
  if (dropped.length > 0) return drop(mailbox.rowsOf(dropped));
  // A row just decided stays where it is, also where groups are by the folder it has left.
  const { group } = view();
  if (group !== "none" && (group !== "folder" || leaving.length === 0)) return regroup();
  // Rows that only change how they look need no new list.
  set({ version: view().version + 1, matches: listing.messages - next.size });
  recountSelection();
}

/** The focus goes on to the next message that is not decided; at the end, to the one before. */
export function advance(): void {
  const { listing, focus, decided } = view();
  const { items } = listing;
  const open = (at: number) => items[at] !== undefined && items[at]! >= 0 && !decided.has(mailbox.idAt(items[at]!));
  if (open(focus)) return;
  for (let at = focus + 1; at < items.length; at++) if (open(at)) return setFocus(at);
  for (let at = focus - 1; at >= 0; at--) if (open(at)) return setFocus(at);
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
