import { runId } from "@/core/id";
import { nextUndo, READING } from "@/core/ledger";
import { serverNow } from "./api";
import { doneMs, takeBack } from "./decide";
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
  /** The screen it was made on. */
  readonly where: string;
}

const done: Done[] = [];
/** With when each was taken back. */
const undone: Done[] = [];
/** What the last undos took back, so that redo does it again in their order. */
let taken: ("edit" | "mail")[] = [];

const inNotice = (words: string): void => notify(words, "trouble");

async function attempt(run: () => Promise<unknown>, trouble: (words: string) => void = inNotice): Promise<boolean> {
  try {
    await run();
    return true;
  } catch (error) {
    trouble(error instanceof Error ? `Not stored: ${error.message}` : "Not stored.");
    await refreshSettings().catch(() => undefined);
    return false;
  }
}

const here = (): string => window.location.pathname;
/** Screens that are about mail. Of edits only those made there are meant: between messages U does not reach into the workshop. */
const OF_MAIL: ReadonlySet<string> = new Set(["/", "/accounts", "/ledger", "/senders"]);

/**
 * Writes are stored in the order they are made; an edit can be taken back while it is still on its way.
 * @param trouble says why it could not be stored, where that is not to be in the notice
 * @returns whether it was stored
 */
export async function perform(edit: Edit, trouble?: (words: string) => void): Promise<boolean> {
  const entry = { ...edit, atMs: serverNow(), where: here() };
  done.push(entry);
  undone.length = 0;
  taken = [];
  notify(`${edit.name}. U takes it back.`);
  const stored = await attempt(edit.forward, trouble);
  if (!stored && done.includes(entry)) done.splice(done.indexOf(entry), 1);
  return stored;
}

/** The run that undo of mail would mean now, with when it was done last, by hand or again. */
function lastMail(): { readonly doneMs: number } | null {
  const entries = view().ledger.map((e) => ({ ...e, id: runId(e.id), of: e.of === null ? null : runId(e.of) }));
  const { target } = nextUndo(entries, view().stuck);
  if (!target) return null;
  const again = entries.filter(({ kind, of }) => kind === "redo" && of === target.id);
  return { doneMs: Math.max(...[target, ...again].map(doneMs)) };
}
const wasRunSince = (ms: number): boolean =>
  view().ledger.some(
    (entry) => entry.kind === "run" && entry.actor === "person" && entry.cause !== READING && doneMs(entry) > ms,
  );

const isMeant = ({ where }: Done): boolean => where === here() || !OF_MAIL.has(here());

function undoMail(): void {
  // What was only read is nothing that is done again.
  if (undone.length > 0 && view().lastReading === null && lastMail()) taken.push("mail");
  takeBack("undo");
}
function redoMail(): void {
  if (taken.at(-1) === "mail") taken.pop();
  takeBack("redo");
}

/** Takes back what was done last: an edit, or a run on mail. Where it can only be mail, before the next key comes. */
export async function undoLast(): Promise<void> {
  if (OF_MAIL.has(here()) && !done.some(isMeant)) return undoMail();
  const learning = handsKnown();
  if (learning) await learning;
  const edit = done.findLast(isMeant);
  const mail = lastMail();
  if (!edit || (mail && mail.doneMs > edit.atMs)) return undoMail();
  // In the order of the keys, not of the answers.
  done.splice(done.indexOf(edit), 1);
  const gone = { ...edit, atMs: serverNow() };
  undone.push(gone);
  taken.push("edit");
  notify(`Took back: ${edit.name}.`);
  if (await attempt(edit.backward)) return;
  undone.splice(undone.indexOf(gone), 1);
  taken = [];
}

/** Does again what was taken back last, unless something was done to mail since: that begins a new line of work. */
export async function redoLast(): Promise<void> {
  if (OF_MAIL.has(here()) && !undone.some(isMeant)) return redoMail();
  const learning = handsKnown();
  if (learning) await learning;
  const edit = undone.findLast(isMeant);
  if (edit && wasRunSince(edit.atMs)) {
    undone.length = 0;
    taken = [];
  }
  if (!edit || taken.at(-1) !== "edit") return redoMail();
  taken.pop();
  undone.splice(undone.indexOf(edit), 1);
  const again = { ...edit, atMs: serverNow() };
  done.push(again);
  notify(`Did again: ${edit.name}.`);
  if (!(await attempt(edit.forward))) done.splice(done.indexOf(again), 1);
}
