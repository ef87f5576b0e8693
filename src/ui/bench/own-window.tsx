"use client";
import { useEffect, useState } from "react";
import { Deck } from "../deck/deck";
import { Foresight } from "../foresight/foresee";
import { useBackGesture } from "../parts/back-gesture";
import { useNarrowScreen } from "../parts/narrow-screen";
import { Notice } from "../parts/notice";
import { MessageWindow } from "../reader/message-window";
import { Reader } from "../reader/reader";
import { Composer } from "../compose/composer";
import { mailbox, useView } from "../state/store";
import { provide } from "./commands";
import { useBenchKeys } from "./use-bench-keys";

/** The message in front with what decides about it: the list it goes on in is not shown. */
function Front() {
  const composing = useView((v) => v.composing);
  const foreseen = useView((v) => v.foreseen);
  const focus = useView((v) => v.focus);
  const count = useView((v) => v.listing.items.length);
  const focusId = useView((v) => v.focusId);
  const row = focusId === null ? undefined : mailbox.rowOf(focusId);
  const title = row === undefined ? "Tachyne" : mailbox.text(row, "subject") || "(no subject)";
  const thread = focusId === null ? [] : mailbox.threadOf(focusId);
  useBackGesture(useNarrowScreen());
  const layer = useBenchKeys();
  useEffect(() => {
    document.title = title;
  }, [title]);
  useEffect(() => {
    provide({
      coversList: () => true,
      close: () => {
        window.close();
        return true;
      },
    });
    return () => provide({ coversList: () => false, close: () => false });
  }, []);
  return (
    <div className="grid h-full min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[1fr_auto_auto]">
      <main id="main" className="min-h-0 min-w-0">
        {composing ? <Composer key={composing.key} composing={composing} /> : <Reader own />}
      </main>
      {foreseen && <Foresight macro={foreseen} />}
      <aside
        aria-label="What was done"
        className="flex items-center gap-3 border-t border-rule bg-paper px-3.5 py-1 print:hidden"
      >
        <Notice testId="notice" className="min-w-0 flex-1 text-[14px]" />
        {thread.length > 1 && (
          <span className="shrink-0 text-[13px] text-ink-2">
            {thread.indexOf(focusId!) + 1} of {thread.length} in its thread: <kbd>[</kbd> <kbd>]</kbd>
          </span>
        )}
        <span className="num shrink-0 text-[13px] text-ink-2">
          {focus < 0 ? "nothing left here" : `${focus + 1} of ${count}`}
        </span>
      </aside>
      <footer hidden={composing !== null} className="border-t-2 border-ink bg-well print:hidden">
        <Deck layer={layer} />
      </footer>
    </div>
  );
}

/** A message in a window of its own: read at once, decided about as soon as the list is there, and gone on from. */
export function OwnWindow({ id }: { readonly id: number }) {
  const [isFront, setFront] = useState(false);
  // While only a part of the mailbox is here, the focus may be on another message: that one is not what was asked for.
  const isThere = useView((v) => v.focusId === id);
  // Once it has been in front, the window stays with what comes after it.
  if (isThere && !isFront) setFront(true);
  return isFront ? <Front /> : <MessageWindow id={id} />;
}
