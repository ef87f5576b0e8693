"use client";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Message } from "@/core/api";
import { fold } from "@/core/narrow";
import { useScreenKeys } from "../parts/screen-keys";
import { dateText } from "../parts/words";
import { changeTextSize, textPx } from "../state/look";
import { set, useView } from "../state/store";
import { FindBar } from "./find-bar";
import { useMessage } from "./use-message";
import { Body, Files } from "./message-body";
import { ShowAs, type Shown } from "./show-as";

const people = (list: Message["to"]) => list.map((p) => p.name || p.address).join(", ");

/** One message in a window of its own, for reading beside the bench: its thread can be walked, nothing is decided. */
export function MessageWindow({ id: first }: { readonly id: number }) {
  const [id, setId] = useState(first);
  const reading = useMessage(id, 0);
  const message = reading.phase === "here" ? reading.message : null;
  const problem = reading.phase === "failed" ? reading.why : null;
  const [shown, setShown] = useState<Shown>("message");
  const find = useView((v) => v.find);
  const sizePx = useView((v) => textPx(v.textSize));
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
    largerText: () => changeTextSize(1),
    smallerText: () => changeTextSize(-1),
    back: () => window.close(),
    escape: () => window.close(),
  });
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
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
      {problem && <p role="alert">{problem}</p>}
      {!message && !problem && <p role="status">Reading the message…</p>}
      {message && (
        <>
          <h1 className="mb-2 text-[19px] leading-tight font-semibold text-balance">
            {message.subject || "(no subject)"}
          </h1>
          <div className="border-b border-rule pb-2.5 text-[13px] text-ink-2">
            <div className="flex flex-wrap justify-between gap-x-4">
              <span>
                <b className="text-ink">{message.from.name || message.from.address || "No sender"}</b>{" "}
                {message.from.name && message.from.address}
              </span>
              <span className="num">{dateText(message.date, zone, new Date())}</span>
            </div>
            <div className="mt-0.5">
              to {people(message.to) || "nobody named"}
              {message.cc.length > 0 && `, copied to ${people(message.cc)}`}
            </div>
          </div>
          <ShowAs shown={shown} onShow={setShown}>
            {message.threadRows.length > 1 && (
              <span className="ml-auto self-center text-ink-2">
                {at + 1} of {message.threadRows.length} in its thread: <kbd>[</kbd> <kbd>]</kbd>
              </span>
            )}
          </ShowAs>
          <Body message={message} shown={shown} sought={sought} textPx={sizePx} />
          <Files message={message} />
        </>
      )}
    </main>
  );
}
