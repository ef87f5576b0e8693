"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import { fold } from "@/core/narrow";
import { Notice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { changeTextSize } from "../state/look";
import { copyMessage, copyThreadOf } from "../state/pass-on";
import { set, useView } from "../state/store";
import { FindBar } from "./find-bar";
import { MessageView } from "./message-view";
import { useMessage } from "./use-message";

/** One message in a window of its own, until its list is there: its thread can be walked, nothing is decided yet. */
export function MessageWindow({ id: first }: { readonly id: number }) {
  const [id, setId] = useState(first);
  const reading = useMessage(id, 0);
  const message = reading.phase === "here" ? reading.message : null;
  const problem = reading.phase === "failed" ? reading.why : null;
  const find = useView((v) => v.find);
  const box = useRef<HTMLElement>(null);
  useEffect(() => {
    if (message) document.title = message.subject || "(no subject)";
  }, [message]);
  const step = useCallback(
    (by: 1 | -1) => {
      const rows = message?.threadRows ?? [];
      const next = rows[rows.findIndex((row) => row.id === id) + by];
      if (next) setId(next.id);
    },
    [message, id],
  );
  const page = (by: 1 | -1) => box.current?.scrollBy(0, by * Math.max(80, box.current.clientHeight - 60));
  useScreenKeys({
    nextInThread: () => step(1),
    previousInThread: () => step(-1),
    read: () => page(1),
    readBack: () => page(-1),
    pageDown: () => page(1),
    pageUp: () => page(-1),
    find: () => set({ find: "" }),
    print: () => window.print(),
    copyText: () => copyMessage(id),
    copyThread: () => copyThreadOf(id),
    largerText: () => changeTextSize(1),
    smallerText: () => changeTextSize(-1),
    back: () => window.close(),
    escape: () => window.close(),
  });
  const sought = find && fold(find).trim() !== "" ? [fold(find).trim()] : [];
  const at = message?.threadRows.findIndex((row) => row.id === message.id) ?? 0;
  return (
    <main
      id="main"
      ref={box}
      tabIndex={-1}
      data-ready={message !== null || undefined}
      className="relative h-full overflow-y-auto bg-paper px-[18px] pt-3.5 pb-6 print:h-auto print:overflow-visible"
    >
      {find !== null && <FindBar box={box} />}
      <Notice testId="notice" className="mb-2 text-[13px] print:hidden" />
      {problem && <p role="alert">{problem}</p>}
      {!message && !problem && <p role="status">Reading the message…</p>}
      {message && (
        <MessageView message={message} sought={sought}>
          {message.threadRows.length > 1 && (
            <span className="ml-auto self-center text-ink-2">
              {at + 1} of {message.threadRows.length} in its thread: <kbd>[</kbd> <kbd>]</kbd>
            </span>
          )}
        </MessageView>
      )}
    </main>
  );
}
