import { runId } from "@/core/id";
import { nextUndo } from "@/core/ledger";
import { serverNow } from "./api";
import { takeBack } from "./decide";
import { handsKnown } from "./hands";
import { refreshSettings } from "./settings";
import { notify, view } from "./store";

/**
 * Changes of settings, macros, decks and places: shown and stored at once, and each can be taken back, in order with
 * what was done to mail.
 */
export interface Edit {
  readonly name: string;
  readonly forward: () => Promise<unknown>;
  readonly backward: () => Promise<unknown>;
}

interface Done extends Edit {
  /** By the server's clock, as what was done to mail. */
  readonly atMs: number;
}

const done: Done[] = [];
const undone: Edit[] = [];
/** What the last undos took back, so that redo does it again in their order. */
let taken: ("edit" | "mail")[] = [];

async function attempt(run: () => Promise<unknown>): Promise<boolean> {
  try {
    await run();
    return true;
  } catch (error) {
    notify(error instanceof Error ? `Not stored: ${error.message}` : "Not stored.", "trouble");
    await refreshSettings().catch(() => undefined);
    return false;
  }
}

/**
 * Writes are stored in the order they are made; an edit can be taken back while it is still on its way.
 * @returns whether it was stored
 */
export async function perform(edit: Edit): Promise<boolean> {
  const entry = { ...edit, atMs: serverNow() };
  done.push(entry);
  undone.length = 0;
  taken = [];
  notify(`${edit.name}. U takes it back.`);
  const stored = await attempt(edit.forward);
  if (!stored && done.includes(entry)) done.splice(done.indexOf(entry), 1);
  return stored;
}

/** When the run was made that undo of mail would mean now; null where there is none. */
function mailAtMs(): number | null {
  const entries = view().ledger.map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) }));
  const { target } = nextUndo(entries, view().stuck);
  return target ? Date.parse(target.at) : null;
}

/** Takes back what was done last: an edit, or a run on mail. */
export async function undoLast(): Promise<void> {
  await handsKnown();
  const edit = done.at(-1);
  const mailMs = mailAtMs();
  if (!edit || (mailMs !== null && mailMs > edit.atMs)) {
    if (!edit && mailMs === null) return notify("There is nothing to take back.");
    taken.push("mail");
    return takeBack("undo");
  }
  done.pop();
  // In the order of the keys, not of the answers.
  undone.push(edit);
  taken.push("edit");
  notify(`Took back: ${edit.name}.`);
  if (await attempt(edit.backward)) return;
  undone.splice(undone.indexOf(edit), 1);
  taken = [];
}

/** Does again what was taken back last. */
export async function redoLast(): Promise<void> {
  await handsKnown();
  const last = taken.pop();
  if (last !== "edit") return takeBack("redo");
  const edit = undone.pop();
  if (!edit) return notify("There is nothing to do again.");
  const again = { ...edit, atMs: serverNow() };
  done.push(again);
  notify(`Did again: ${edit.name}.`);
  if (!(await attempt(edit.forward))) done.splice(done.indexOf(again), 1);
}
