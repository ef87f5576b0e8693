import type { DraftShape, OutgoingShape, RunAnswer } from "@/core/api";
import { messageId } from "@/core/id";
import type { LetterKind } from "@/core/letter";
import { plural } from "../parts/words";
import { get, write } from "./api";
import { mailbox, notify, set, view, type Composing } from "./store";
import { keepTyped, takeTyped } from "./typed-ahead";

/** Opening letters, and what becomes of them once they are written. */

function opening(more: Partial<Composing>): Composing {
  keepTyped(() => {
    takeTyped();
    closeComposer();
  });
  return { key: crypto.randomUUID(), draft: null, kind: null, answers: null, next: [], of: 1, ...more };
}

/** Opens a draft. @param next those that come after it */
export function openDraft(draft: number, next: readonly number[] = [], of = next.length + 1): void {
  const { composing } = view();
  // The letter that was opened at once is the one the server has begun.
  if (composing?.draft === null && composing.kind !== null && composing.kind !== "new")
    set({ composing: { ...composing, draft, next, of } });
  else set({ composing: opening({ draft, next, of }) });
}

/** Shows a letter at once, that the server is only beginning. */
export const openAtOnce = (kind: LetterKind, answers: number): void => set({ composing: opening({ kind, answers }) });

/** Answers that were left before the server had begun them: nobody wants them opened once it has. */
let leftEarly = 0;

/**
 * The run that was to begin a letter was refused: what is typed into it already becomes a letter of its own.
 * @param why in words
 */
export async function neverBegun(why: string): Promise<void> {
  const { composing } = view();
  if (composing?.draft !== null || composing.kind === null || composing.kind === "new") return;
  const { key, kind, answers } = composing;
  set({ composing: { ...composing, trouble: `The macro did nothing: ${why}` } });
  const begin = (body: object) => write<DraftShape>("POST", "/drafts", body);
  try {
    // The message may be gone; what is written to it is not.
    const draft = await begin({ kind, answers }).catch(() => begin({ kind: "new" }));
    const now = view().composing;
    if (now?.key === key) set({ composing: { ...now, draft: draft.id } });
  } catch {
    // The server is away: the letter stays as it is, and says why.
  }
}

/** Begins a new letter. */
export async function composeNew(
  fields: Partial<Pick<DraftShape, "to" | "cc" | "bcc" | "subject" | "body">> = {},
): Promise<void> {
  const composing = opening({ kind: "new" });
  set({ composing });
  try {
    const draft = await write<DraftShape>("POST", "/drafts", { kind: "new", ...fields });
    if (view().composing?.key === composing.key) set({ composing: { ...composing, draft: draft.id } });
    // Left before it was there, with nothing written.
    else await write("DELETE", `/drafts/${draft.id}`);
  } catch (error) {
    if (view().composing?.key === composing.key)
      set({ composing: { ...composing, trouble: error instanceof Error ? error.message : "It could not be begun." } });
  }
}

/** The next draft of the same run, or back to the mail. */
export function closeComposer(): void {
  const { composing } = view();
  if (composing?.draft === null && composing.answers !== null) leftEarly++;
  const [first, ...rest] = composing?.next ?? [];
  set({ composing: first === undefined ? null : opening({ draft: first, next: rest, of: composing!.of }) });
}

export const isDraft = (id: number): boolean => {
  const drafts = view().directory.folders.find(({ role }) => role === "drafts");
  return drafts !== undefined && mailbox.state(messageId(id))?.folder === drafts.id;
};

/** Letters that were sent from here, by the run that did: calling one back opens it again. */
export const sentHere = new Map<string, number>();

/** Sendings that the server has not confirmed yet: undo means the last of them, once it is there. */
const sending = new Set<Promise<unknown>>();
export const whenSent = (): Promise<unknown> => Promise.all(sending);
export const isSending = (): boolean => sending.size > 0;

/**
 * Sends a draft behind what is shown. Where the server says no, it is opened again with the reason.
 * @param save stores what was typed last
 */
export function sendBehind(
  draft: number,
  save: () => Promise<number>,
  afterwards: number | null,
  confirmed: (answer: RunAnswer) => void,
): void {
  const id = crypto.randomUUID();
  const went = (async () => {
    try {
      const version = await save();
      const answer = await write<RunAnswer>("POST", `/drafts/${draft}/send`, { id, version, afterwards });
      sentHere.set(id, draft);
      confirmed(answer);
    } catch (error) {
      const trouble = error instanceof Error ? error.message : "It could not be sent.";
      notify(`Not sent: ${trouble}`, "trouble");
      set({ composing: opening({ draft, trouble: `Not sent: ${trouble}` }) });
    }
  })();
  sending.add(went);
  void went.finally(() => sending.delete(went));
}

/** Opens what a run waits for: one draft after the other. */
export function openWaiting(waiting: readonly { readonly draft: number }[]): void {
  const [first, ...rest] = waiting.map(({ draft }) => draft);
  if (first === undefined) return;
  if (leftEarly > 0 && rest.length === 0) {
    leftEarly--;
    return notify("The draft is kept in Drafts.");
  }
  if (rest.length > 0) notify(`${plural(rest.length + 1, "draft")} wait for you, one after the other.`);
  openDraft(first, rest);
}

/** Reads what is on its way. */
export async function readOutgoing(): Promise<void> {
  const rows = await get<OutgoingShape[]>("/outgoing");
  set({ outgoing: new Map(rows.map((row) => [row.message, row])), version: view().version + 1 });
}
