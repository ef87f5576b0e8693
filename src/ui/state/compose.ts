import type { DraftShape, OutgoingShape, RunAnswer } from "@/core/api";
import { messageId } from "@/core/id";
import type { LetterKind } from "@/core/letter";
import { plural } from "../parts/words";
import { Away, get, write } from "./api";
import { KeptLetters } from "./kept";
import { LetterQueue, type Letter } from "./letters";
import { readInTurn } from "./read-in-turn";
import { mailbox, notify, set, view, type Composing } from "./store";

/** Opening letters, and what becomes of them once they are written. */

function opening(more: Partial<Composing>): Composing {
  return {
    key: crypto.randomUUID(),
    draft: null,
    kind: null,
    answers: null,
    run: null,
    resumed: null,
    next: [],
    of: 1,
    ...more,
  };
}

/** Opens a draft. @param next those that come after it */
export function openDraft(draft: number, next: readonly number[] = [], of = next.length + 1): void {
  set({ composing: opening({ draft, next, of }) });
}

/** Shows a letter at once, that the server is only beginning. @param run the run that begins it */
export const openAtOnce = (kind: LetterKind, answers: number, run: string): void =>
  set({ composing: opening({ kind, answers, run }) });

/** Goes on with a letter that the server does not have all of. */
function openAgain(letter: Letter, trouble?: string): void {
  const { key, draft, kind, answers, run } = letter;
  const more = trouble === undefined ? {} : { trouble };
  set({ composing: opening({ key, draft, kind, answers, run, resumed: letter, ...more }) });
}

/** Runs whose answer was left before the server had begun it: nobody wants it opened once it has. */
const leftRuns = new Set<string>();

/** Runs of a window before this one. */
export const leaveRun = (run: string): void => void leftRuns.add(run);

const RETRY_MS = 2000;
const pause = (ms: number) => new Promise<void>((resolve) => setTimeout(resolve, ms));

const isOpen = (key: string): boolean => view().composing?.key === key;

/** Begins the draft of a letter that is open, for as long as that takes. */
async function begin(key: string, body: object): Promise<void> {
  for (;;) {
    try {
      const draft = await write<DraftShape>("POST", "/drafts", { id: key, ...body });
      const now = view().composing;
      if (now?.key === key) set({ composing: { ...now, draft: draft.id } });
      // Left before it was there, with nothing written.
      else if (!letters().has(key)) await write("DELETE", `/drafts/${draft.id}`);
      return;
    } catch (error) {
      const now = view().composing;
      if (now?.key !== key) return;
      if (!(error instanceof Away)) {
        const trouble = error instanceof Error ? error.message : "It could not be begun.";
        return set({ composing: { ...now, trouble } });
      }
      await pause(RETRY_MS);
      if (!isOpen(key)) return;
    }
  }
}

/**
 * The run that was to begin a letter was refused: what is typed into it already becomes a letter of its own.
 * @param why in words
 */
export async function neverBegun(why: string): Promise<void> {
  const { composing } = view();
  if (composing?.draft !== null || composing.run === null) return;
  const { key, kind, answers } = composing;
  set({ composing: { ...composing, run: null, trouble: `The macro did nothing: ${why}` } });
  await begin(key, { kind, answers });
  // The message may be gone; what is written to it is not.
  const now = view().composing;
  if (now?.key === key && now.draft === null) await begin(key, { kind: "new" });
}

/** Begins a new letter. */
export async function composeNew(
  fields: Partial<Pick<DraftShape, "to" | "cc" | "bcc" | "subject" | "body">> = {},
): Promise<void> {
  const composing = opening({ kind: "new" });
  set({ composing });
  await begin(composing.key, { kind: "new", ...fields });
}

/** The next draft of the same run, or back to the mail. */
export function closeComposer(): void {
  const { composing } = view();
  if (composing?.draft === null && composing.run !== null) leftRuns.add(composing.run);
  const [first, ...rest] = composing?.next ?? [];
  set({ composing: first === undefined ? null : opening({ draft: first, next: rest, of: composing!.of }) });
}

export const isDraft = (id: number): boolean => {
  const drafts = view().directory.folders.find(({ role }) => role === "drafts");
  return drafts !== undefined && mailbox.state(messageId(id))?.folder === drafts.id;
};

/** Letters that were sent from here, by the run that did: calling one back opens it again. */
export const sentHere = new Map<string, number>();

/** What is to be done once a letter is sent; of this window's letters only. */
const afterwards = new Map<string, (answer: RunAnswer) => void>();

let queue: LetterQueue | null = null;
let kept: KeptLetters | null = null;

/** Runs that are on their way to the server. */
let isWaiting: (run: string) => boolean = () => false;
export const tellOfRuns = (is: typeof isWaiting): void => void (isWaiting = is);

/** Letters that are on their way to the server; made once it is known whose they are. */
export function letters(): LetterQueue {
  if (queue) return queue;
  const here = (kept ??= new KeptLetters(view().home!.person.token));
  return (queue = new LetterQueue(
    {
      begin: (body) => write<DraftShape>("POST", "/drafts", body),
      read: (draft) => get<DraftShape>(`/drafts/${draft}`),
      patch: (draft, body) => write<DraftShape>("PATCH", `/drafts/${draft}`, body),
      send: (draft, body) => write<RunAnswer>("POST", `/drafts/${draft}/send`, body),
      isRunWaiting: (run) => isWaiting(run),
      keep: (all) => here.keep(all),
      pause,
    },
    {
      stored: () => notify("The draft is kept in Drafts."),
      sent: ({ key, draft, sending }, answer) => {
        sentHere.set(sending!.id, draft!);
        afterwards.get(key)?.(answer);
        afterwards.delete(key);
      },
      beside: ({ sending }) =>
        notify(
          `Another window has changed the draft: what was written here is a draft of its own${sending ? ", not sent" : ""}.`,
          "trouble",
        ),
      refused: (letter, why) => {
        const trouble = `${letter.sending ? "Not sent" : "Not stored"}: ${why}`;
        notify(trouble, "trouble");
        const { draft } = letter;
        const isStored = draft !== null && letter.body === null && Object.keys(letter.fields).length === 0;
        // What the server does not have stays here until somebody has looked at it.
        if (!isStored) letters().keepOpen({ ...letter, sending: null });
        if (view().composing !== null) return;
        if (isStored) set({ composing: opening({ draft, trouble }) });
        else openAgain({ ...letter, sending: null }, trouble);
      },
      waiting: (count) => count !== view().lettersWaiting && set({ lettersWaiting: count }),
    },
  ));
}

/** Letters of windows that were closed before the server had them. */
export async function resumeLetters(): Promise<void> {
  letters();
  // A browser that keeps nothing has nothing to hand over.
  await kept!.adopt((all) => letters().add(...all)).catch(() => undefined);
}

/** Letters that are being handed over. */
const handing = new Set<Promise<unknown>>();

/** Stores a letter that was left, or sends it, behind what is shown. @param letter once nothing of it is on its way */
export function handOver(letter: Promise<Letter>, sent?: (answer: RunAnswer) => void): void {
  const given = letter.then(async (one) => {
    if (sent) afterwards.set(one.key, sent);
    await letters().add(one);
    if (view().link === "away")
      notify(
        one.sending
          ? "No connection: the letter is kept here and sent once there is one. U brings it back."
          : "No connection: the letter is kept here, and goes to Drafts once there is one.",
      );
  });
  handing.add(given);
  void given.finally(() => handing.delete(given));
}

export const isSending = (): boolean => handing.size > 0 || (queue?.isSending ?? false);

/** Opens the last letter that is not sent yet once more. @returns whether there was one */
export async function recallLetter(): Promise<boolean> {
  await Promise.all(handing);
  const letter = await letters().recall();
  if (letter) openAgain({ ...letter, sending: null });
  return letter !== null;
}

/** Opens what a run waits for: one draft after the other. */
export function openWaiting(run: string, waiting: readonly { readonly draft: number }[]): void {
  const [first, ...rest] = waiting.map(({ draft }) => draft);
  if (first === undefined) return;
  const isLeft = leftRuns.delete(run);
  // What was written to it here is on its way into it, and says so by itself.
  if (letters().isFor(run) && !isOpenFor(run)) return;
  if (isLeft && rest.length === 0) return notify("The draft is kept in Drafts.");
  if (rest.length > 0) notify(`${plural(rest.length + 1, "draft")} wait for you, one after the other.`);
  const { composing } = view();
  // The letter that was opened at once is the one the server has begun.
  if (composing && isOpenFor(run)) set({ composing: { ...composing, draft: first, next: rest, of: rest.length + 1 } });
  else openDraft(first, rest);
}

const isOpenFor = (run: string): boolean => view().composing?.run === run;

/** Reads what is on its way. */
export const readOutgoing = readInTurn(async () => {
  const rows = await get<OutgoingShape[]>("/outgoing");
  set({ outgoing: new Map(rows.map((row) => [row.message, row])), version: view().version + 1 });
});
