"use client";
import { useEffect } from "react";
import { textAt } from "@/core/columns";
import { Modal } from "../parts/picker";
import { clockText, plural } from "../parts/words";
import { throwAway, tryAgain } from "../state/decide";
import type { SetAside } from "../state/queue";
import { mailbox, set, useView } from "../state/store";

const close = () => set({ dialog: null });
const BUTTON = "rounded-sm border border-edge bg-sheet px-2.5 py-1 text-[13px]";

/** What was decided, in a few words. */
function whatText({ decision }: SetAside): string {
  if (decision.kind !== "run") return `${decision.kind === "undo" ? "Take back" : "Do again"} ${decision.name}`;
  const count = decision.described ? "a whole list" : plural(decision.ids.length, "message");
  return `${decision.macro.name} on ${count}`;
}

/** The subject of the message it was decided on, or of the first of them, as far as this window knows it. */
function subjectOf({ decision }: SetAside): string | null {
  const [first] = decision.kind === "run" ? decision.ids : [];
  const row = first === undefined ? undefined : mailbox.rowOf(first);
  if (row === undefined) return null;
  const rest = decision.kind === "run" ? decision.ids.length - 1 : 0;
  return `${textAt(mailbox.columns, "subject", row) || "(no subject)"}${rest > 0 ? `, and ${rest} more` : ""}`;
}

/** Decisions that could not be done, with the reason, to be tried again or thrown away. */
export function AsideList() {
  const aside = useView((v) => v.aside);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  useEffect(() => {
    if (aside.length === 0) close();
  }, [aside]);
  return (
    <Modal title="Decisions that could not be done" onClose={close} wide>
      <ul className="max-h-[60vh] overflow-y-auto px-4 pt-2 pb-4 text-[13.5px]">
        {aside.map((entry, i) => (
          <li
            key={entry.decision.id}
            className="grid grid-cols-[46px_minmax(0,1fr)_auto] items-start gap-3 border-b border-rule py-2 last:border-0"
          >
            <span className="num pt-1 text-xs text-ink-3">{clockText(entry.decision.at, zone)}</span>
            <span className="min-w-0">
              <b className="font-semibold">{whatText(entry)}</b>
              <span className="block truncate">{subjectOf(entry)}</span>
              <span className="block text-ink-2">{entry.why}</span>
            </span>
            <span className="flex gap-2">
              <button type="button" autoFocus={i === 0} className={BUTTON} onClick={() => tryAgain(entry.decision.id)}>
                Try again
              </button>
              <button type="button" className={BUTTON} onClick={() => throwAway(entry.decision.id)}>
                Throw away
              </button>
            </span>
          </li>
        ))}
      </ul>
    </Modal>
  );
}
