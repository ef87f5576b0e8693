"use client";
import { useEffect, useMemo, useRef, useState } from "react";
import { fold, soughtIn } from "@/core/narrow";
import { expressionOf } from "../state/browse";
import { textPx } from "../state/look";
import { mailbox, set, useView, view } from "../state/store";
import { FindBar } from "./find-bar";
import type { Shown } from "./show-as";
import { ReaderHead } from "./reader-head";
import { ReaderMessage } from "./reader-message";
import { stampOf, useMessage, useReadAhead, useReadAround } from "./use-message";
import { useReaderCommands } from "./use-reader-commands";

/** What is looked for in the message stands before what the list was narrowed by. */
function useSought(): readonly string[] {
  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const find = useView((v) => v.find);
  return useMemo(() => {
    const found = find === null ? "" : fold(find).trim();
    return found === "" ? soughtIn(expressionOf(place, conditions)) : [found];
  }, [find, place, conditions]);
}

/**
 * The focused message. What the columns know is shown at once; the rest when it has been read.
 * @param large in a pass
 * @param own in a window of its own
 */
export function Reader({ large = false, own = false }: { readonly large?: boolean; readonly own?: boolean }) {
  const focusId = useView((v) => v.focusId);
  const nextId = useView((v) => {
    const row = v.listing.items[v.focus + 1];
    return row === undefined || row < 0 ? null : (mailbox.columns.id[row] ?? null);
  });
  const version = useView((v) => v.version);
  const tasks = useView((v) => v.home?.tasks ?? 0);
  const find = useView((v) => v.find);
  const alone = useView((v) => v.readerPlace === "off");
  const sizePx = useView((v) => textPx(v.textSize));
  const group = useView((v) => v.listing.groups.find((one) => one.key === v.focusGroup) ?? null);
  const [choice, setChoice] = useState<{ readonly id: number | null; readonly shown: Shown }>({
    id: null,
    shown: "message",
  });
  const box = useRef<HTMLElement>(null);
  const sought = useSought();
  const reading = useMessage(focusId, stampOf(focusId, tasks));
  useReadAhead(nextId, stampOf(nextId, tasks));
  useReadAround(large || own);
  useReaderCommands(box, focusId, reading.phase, own);

  const isScrolled = useRef(false);
  useEffect(() => {
    // Only where there is something to do: being scrolled, the browser lays out all that has changed.
    if (isScrolled.current) box.current?.scrollTo(0, 0);
    if (view().find !== null) set({ find: null });
  }, [focusId]);

  const row = focusId === null ? undefined : mailbox.rowOf(focusId);
  if (focusId === null || row === undefined || version < 0)
    return (
      <section aria-label="Message" className="bg-paper p-6 text-ink-2">
        {group ? `A group of ${group.count} is chosen: what you do is done to all of it.` : "No message is chosen."}
      </section>
    );
  const message = reading.phase === "here" && reading.message.id === focusId ? reading.message : null;
  return (
    <section
      ref={box}
      aria-label="Message"
      data-read={message?.id}
      tabIndex={-1}
      onScroll={({ currentTarget }) => (isScrolled.current = currentTarget.scrollTop > 0)}
      className={`relative h-full min-h-0 overflow-y-auto bg-paper contain-strict print:h-auto print:overflow-visible print:contain-none ${large ? "touch-pan-y px-5 pt-5 pb-8 md:px-[60px] md:pt-6" : "px-[18px] pt-3.5 pb-6"}`}
    >
      {find !== null && <FindBar box={box} />}
      <button
        type="button"
        hidden={large || own}
        className={`mb-2 rounded-sm border border-rule bg-sheet px-2 py-1 text-[13px] print:hidden ${alone ? "" : "md:hidden"}`}
        onClick={() => set({ opened: false })}
      >
        Back to the list
      </button>
      <ReaderHead id={focusId} row={row} message={message} sought={sought} large={large} />
      {reading.phase === "failed" && reading.id === focusId && (
        <p role="alert" className="mt-3 rounded-md bg-brick-soft px-3 py-2 text-[13px]">
          {reading.why}
        </p>
      )}
      {!message && <p className="mt-3 max-w-[62ch] text-ink-2">{mailbox.text(row, "preview")}</p>}
      <ReaderMessage
        message={message}
        // How a message is shown is chosen for that message alone.
        shown={choice.id === focusId ? choice.shown : "message"}
        onShow={(shown) => setChoice({ id: focusId, shown })}
        sought={sought}
        textPx={sizePx}
      />
    </section>
  );
}
