import { messageId } from "@/core/id";
import { progressOf, type Deed, type Progress } from "@/core/pass";
import { mailbox, view, type Pass } from "./store";

/** What a pass shows: its rows, and what was decided about them. */

/** Runs that were taken back, as far as the ledger shows them. */
function takenBack(): ReadonlySet<string> {
  const undone = view().ledger.filter(({ kind, state }) => kind === "run" && state === "undone");
  return new Set(undone.map(({ id }) => id));
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
