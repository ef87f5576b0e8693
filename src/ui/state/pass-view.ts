import type { EntryShape } from "@/core/api";
import { messageId } from "@/core/id";
import { progressOf, type Deed, type Progress } from "@/core/pass";
import { mailbox, view, type Pass } from "./store";

/** What a pass shows: its rows, and what was decided about them. */

/** Runs that were taken back, as far as this window has seen: also those that its ledger has let go of since. */
const undone = new Set<string>();
let seen: readonly EntryShape[] = [];

/** A pass may be longer than what a window holds of the ledger: what was taken back early in it stays so. */
function takenBack(): ReadonlySet<string> {
  const { ledger } = view();
  if (ledger === seen) return undone;
  seen = ledger;
  const note = (run: string, isUndone: boolean) => void (isUndone ? undone.add(run) : undone.delete(run));
  const listed = new Set<string>();
  for (const { kind, id, of, state } of [...ledger].reverse()) {
    if (kind === "run") {
      listed.add(id);
      note(id, state === "undone");
    } else if (of !== null && !listed.has(of)) note(of, kind === "undo");
  }
  return undone;
}

/** Its deeds that still hold. */
export function standing({ deeds }: Pass): readonly Deed[] {
  const gone = takenBack();
  return gone.size === 0 ? deeds : deeds.filter(({ run }) => !gone.has(run));
}

/** Verdicts of a pass by message: what each was decided by last. */
export const verdictsOf = (pass: Pass): Map<number, string> =>
  new Map(standing(pass).map(({ message, macro }) => [message, macro]));

/** Rows of queues, as long as they are numbered as they were: a queue may be long, and changes seldom. */
const known = new WeakMap<ReadonlySet<number>, { readonly of: string; readonly rows: Int32Array }>();

/** Its rows, oldest first; what is deleted for good is in no list. */
export function rowsOf({ queue }: Pass): Int32Array {
  const of = `${mailbox.generation} ${mailbox.columns.count} ${[...mailbox.leaving].join()}`;
  const before = known.get(queue);
  if (before?.of === of) return before.rows;
  const rows = Int32Array.from(mailbox.rowsOf([...queue].filter((id) => !mailbox.leaving.has(id)))).sort();
  known.set(queue, { of, rows });
  return rows;
}

/** How far it has come. */
export function progress(pass: Pass): Progress {
  const verdicts = verdictsOf(pass);
  const decided = new Set(verdicts.keys());
  const rows = rowsOf(pass);
  let gone = 0;
  for (const id of decided) if (mailbox.rowOf(id) === undefined || mailbox.leaving.has(id)) gone++;
  return progressOf(
    { total: rows.length + gone, decided, skipped: pass.skipped },
    (id) => mailbox.state(messageId(id))?.owed === true,
  );
}

/** The first place from one on that is neither decided nor passed over; -1 where there is none. */
export function firstOpen(from = 0): number {
  const { listing, pass, decided } = view();
  for (let at = from; at < listing.items.length; at++) {
    const id = mailbox.idAt(listing.items[at]!);
    if (!decided.has(id) && !pass?.skipped.has(id)) return at;
  }
  return -1;
}
