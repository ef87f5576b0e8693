import { load, type Change } from "@/core/change";
import type { EntryShape } from "@/core/api";
import { runId } from "@/core/id";
import { get, getIndex } from "./api";
import { relist } from "./browse";
import { deedOf, settler, showLedger } from "./decide";
import { LEDGER_PATH, listedAnew, withEntry } from "./entries";
import { refreshPass } from "./pass";
import { readInTurn } from "./read-in-turn";
import { reflect } from "./reflect";
import { asOne, mailbox, set, view } from "./store";
import { forgetWords } from "./words";

/** Taking in what the server wrote: ours comes back as confirmation, others' as news. */

/** Messages that came to be: by an import, a copy, or a copy made again. */
export async function fetchMessages(ids: readonly number[]): Promise<void> {
  const AT_ONCE = 500;
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    const { columns } = await getIndex({ ids: ids.slice(at, at + AT_ONCE).join(",") });
    settler.mergeTruth(() => mailbox.merge(columns));
  }
  forgetWords();
  relist();
}

/** Puts a part of the index under what is on its way. */
export function mergePart(merge: () => void): void {
  settler.mergeTruth(merge);
}

/**
 * Keeps the number of open tasks right as runs make them and take them back. What was read from the server
 * after the write holds it already.
 */
function countTasks(change: Change, seq: number): void {
  const { home } = view();
  if (!home || seq <= home.seq) return;
  const isOpen = (task: { readonly done: boolean } | null) => Number(task !== null && !task.done);
  let more = 0;
  for (const edit of change.things.values()) if (edit.kind === "task") more += isOpen(edit.after) - isOpen(edit.before);
  set({ home: { ...home, seq, tasks: home.tasks + more } });
}

/** Messages a change made, and those it ended. */
function comeAndGone(change: Change): { readonly made: number[]; readonly gone: Set<number> } {
  const made: number[] = [];
  const gone = new Set<number>();
  for (const [id, edits] of change.messages)
    for (const edit of edits) {
      if (edit.kind === "exists" && edit.after) made.push(id);
      else if (edit.kind === "exists" || (edit.kind === "gone" && edit.after)) gone.add(id);
    }
  return { made, gone };
}

/** Takes one entry in. @throws an Error where it cannot be applied: then the view is no longer what the server has */
export async function arrive(data: EntryShape & { readonly change: unknown }): Promise<void> {
  const { change: stored, ...entry } = data;
  const change = load(stored);
  const own = settler.onItsWay.find(({ decision }) => decision.id === data.id)?.decision;
  const { made, gone } = comeAndGone(change);
  let touched: ReadonlySet<number> = new Set();
  // Mostly it is what a key has shown already, and the next key comes meanwhile: who looks at the view hears of it once.
  asOne(() => {
    set({ arrivals: view().arrivals + 1 });
    touched = settler.arrive(runId(data.id), data.kind, change);
    countTasks(change, data.seq);
    if (gone.size > 0) mailbox.remove(gone);
    for (const id of gone) mailbox.leaving.delete(id);
    showLedger(withEntry(view().confirmed, entry));
  });
  if (made.length > 0) await fetchMessages(made);
  if (gone.size > 0) relist();
  else if (touched.size > 0) reflect(touched, own?.kind === "run" ? deedOf(own) : null);
  const { pass } = view();
  if (pass && !own && [...change.messages.keys()].some((id) => pass.queue.has(id))) void refreshPass();
  // Whether a run is wholly or partly taken back is the server's to say.
  if (data.kind !== "run") readLedger();
}

const LOOK_AFTER_MS = 150;

const readEntries = readInTurn(async () => {
  const before = view().arrivals;
  const read = await get<EntryShape[]>(LEDGER_PATH);
  // What was written while it was read is not in it: it is read once more.
  if (before === view().arrivals) showLedger(listedAnew(view().confirmed, read));
  else readLedger();
});

/** Reads the ledger anew, once for all that happens in a moment. */
export function readLedger(): void {
  if (view().readsLedger) return;
  set({ readsLedger: true });
  setTimeout(() => {
    set({ readsLedger: false });
    void readEntries().catch(() => undefined);
  }, LOOK_AFTER_MS);
}
