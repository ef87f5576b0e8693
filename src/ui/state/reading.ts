import { messageId, runId } from "@/core/id";
import { READING } from "@/core/ledger";
import type { Step } from "@/core/macro";
import { cut } from "@/core/text";
import { decideRun, planContext } from "./decide";
import { planIn } from "./settle";
import { mailbox, set, useView, view } from "./store";

/** What is opened counts as read after a while, if the person wants that. */

const LONGEST_ABOUT = 200;
const STEPS: readonly Step[] = [{ do: "read" }];
let timer: ReturnType<typeof setTimeout> | undefined;

/** @param byHand whether a key or a press opened it just now, so that undo means this */
function markRead(id: number, byHand: boolean): void {
  const { focusId, opened, home } = view();
  const row = mailbox.rowOf(id);
  if (focusId !== id || !opened || !home || row === undefined || mailbox.state(messageId(id))?.read !== false) return;
  const now = new Date();
  const macro = { name: "Read", steps: STEPS };
  const planned = planIn(mailbox, { macro, ids: [id], answers: {} }, { ...planContext(), now });
  if (!planned.ok) return;
  const run = runId(crypto.randomUUID());
  decideRun(
    {
      kind: "run",
      id: run,
      at: now.toISOString(),
      macro,
      ids: [id],
      answers: {},
      about: cut(mailbox.text(row, "subject"), LONGEST_ABOUT),
      cause: READING,
    },
    planned.plan.change,
  );
  if (byHand) set({ lastReading: run });
}

/** A message was opened, or came before the eyes while the reader is open. */
function begin(id: number, byHand: boolean): void {
  clearTimeout(timer);
  const after = view().home?.settings.readAfter ?? null;
  if (after === null) return;
  if (after === 0) markRead(id, byHand);
  else timer = setTimeout(() => markRead(id, byHand), after * 1000);
}

/** Opens the focused message. */
export function openFocused(): void {
  const { focusId } = view();
  set({ opened: true });
  if (focusId !== null) begin(focusId, true);
}

/** Follows what is opened. @returns what ends that */
export const followReading = (): (() => void) =>
  useView.subscribe((now, before) => {
    if (!now.opened) clearTimeout(timer);
    else if (now.focusId !== before.focusId && before.opened && now.focusId !== null) begin(now.focusId, false);
  });
