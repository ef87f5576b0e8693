"use client";
import Link from "next/link";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Message } from "@/core/api";
import { fold, soughtIn } from "@/core/narrow";
import { provide } from "../bench/commands";
import { Marked } from "../parts/marked";
import { dateText } from "../parts/words";
import { TONE } from "../parts/tone";
import { expressionOf, focusMessage } from "../state/browse";
import { textPx } from "../state/look";
import { mailbox, notify, set, useView } from "../state/store";
import { FindBar } from "./find-bar";
import { LabelChips } from "./label-chips";
import { Body, Files, SHOWN, Tasks, type Shown } from "./message-body";
import { ThreadList } from "./thread-list";
import { useMessage, useReadAhead } from "./use-message";

/** Changes when what hangs on a message may have: tasks made from it, and how long its folder keeps it. */
function stampOf(id: number | null, tasks: number): number {
  const row = id === null ? undefined : mailbox.rowOf(id);
  return tasks * 2 ** 20 + (row === undefined ? 0 : mailbox.columns.folder[row]!);
}

/** The focused message. What the columns know is shown at once; the rest when it has been read. */
export function Reader() {
  const focusId = useView((v) => v.focusId);
  const nextId = useView((v) => {
    const row = v.listing.items[v.focus + 1];
    return row === undefined || row < 0 ? null : (mailbox.columns.id[row] ?? null);
  });
  const version = useView((v) => v.version);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const directory = useView((v) => v.directory);
  const [choice, setChoice] = useState<{ readonly id: number | null; readonly shown: Shown }>({
    id: null,
    shown: "message",
  });
  // How a message is shown is chosen for that message alone.
  const shown = choice.id === focusId ? choice.shown : "message";
  const box = useRef<HTMLElement>(null);
  const tasks = useView((v) => v.home?.tasks ?? 0);
  const reading = useMessage(focusId, stampOf(focusId, tasks));
  useReadAhead(nextId, stampOf(nextId, tasks));

  const place = useView((v) => v.place);
  const conditions = useView((v) => v.conditions);
  const find = useView((v) => v.find);
  const alone = useView((v) => v.readerPlace === "off");
  const sizePx = useView((v) => textPx(v.textSize));
  const group = useView((v) => v.listing.groups.find((one) => one.key === v.focusGroup) ?? null);
  // What is looked for in the message stands before what the list was narrowed by.
  const sought = useMemo(() => {
    const found = find === null ? "" : fold(find).trim();
    return found === "" ? soughtIn(expressionOf(place, conditions)) : [found];
  }, [find, place, conditions]);

  useEffect(() => {
    box.current?.scrollTo(0, 0);
    set({ find: null });
  }, [focusId]);

  // Before the next key can come: it must not be answered for the message before.
  useLayoutEffect(() => {
    provide({
      readPage: (direction) => {
        const element = box.current;
        if (!element) return false;
        // A message that is still coming has not been read to its end.
        if (reading.phase === "coming") return true;
        const before = element.scrollTop;
        element.scrollBy(0, direction * Math.max(80, element.clientHeight - 60));
        return element.scrollTop !== before;
      },
      print: () => (reading.phase === "here" ? window.print() : notify("Open a message first.")),
      threadStep: (direction) => {
        if (focusId === null) return;
        // The columns know the thread: nobody has to wait for the message to have been read.
        const ids = mailbox.threadOf(focusId);
        const next = ids[ids.indexOf(focusId) + direction];
        if (next === undefined)
          notify(
            direction > 0 ? "This is the last message of the thread." : "This is the first message of the thread.",
          );
        else if (!focusMessage(next)) {
          const folder = directory.folders.find((one) => one.id === mailbox.columns.folder[mailbox.rowOf(next)!]);
          const where = folder ? `in ${folder.path}` : "elsewhere";
          notify(
            `The ${direction > 0 ? "next" : "earlier"} message is ${where}, outside this list. Open it in the thread below.`,
          );
        }
      },
    });
  }, [directory, focusId, reading.phase]);

  const row = focusId === null ? undefined : mailbox.rowOf(focusId);
  if (focusId === null || row === undefined || version < 0)
    return (
      <section aria-label="Message" className="bg-paper p-6 text-ink-2">
        {group ? `A group of ${group.count} is chosen: what you do is done to all of it.` : "No message is chosen."}
      </section>
    );
  const state = mailbox.state(mailbox.idAt(row))!;
  const message = reading.phase === "here" && reading.message.id === focusId ? reading.message : null;
  const from = mailbox.text(row, "fromName");
  const address = mailbox.text(row, "fromAddress");
  const marker = directory.markers.find((m) => m.id === state.marker);
  const labels = directory.labels.filter((label) => state.labels.includes(label.id));
  const people = (list: Message["to"]) => list.map((p) => p.name || p.address).join(", ");
  return (
    <section
      ref={box}
      aria-label="Message"
      tabIndex={-1}
      className="relative h-full min-h-0 overflow-y-auto bg-paper px-[18px] pt-3.5 pb-6 print:h-auto print:overflow-visible"
    >
      {find !== null && <FindBar box={box} />}
      <button
        type="button"
        className={`mb-2 rounded-sm border border-rule bg-sheet px-2 py-1 text-[13px] print:hidden ${alone ? "" : "md:hidden"}`}
        onClick={() => set({ opened: false })}
      >
        Back to the list
      </button>
      <h1 className="mb-2 text-[19px] leading-tight font-semibold text-balance">
        <Marked text={mailbox.text(row, "subject") || "(no subject)"} sought={sought} />
      </h1>
      <div className="border-b border-rule pb-2.5 text-[13px] text-ink-2">
        <div className="flex flex-wrap justify-between gap-x-4">
          <span className="min-w-0">
            <b className="text-ink">{from || address || "No sender"}</b>{" "}
            {from && <span className="break-all">{address}</span>}
          </span>
          <span className="num whitespace-nowrap">
            {dateText(new Date(mailbox.columns.dateMs[row]!).toISOString(), zone, new Date())}
          </span>
        </div>
        {message && (
          <div className="mt-0.5 truncate">
            to {people(message.to) || "nobody named"}
            {message.cc.length > 0 && `, copied to ${people(message.cc)}`}
          </div>
        )}
        {(marker || labels.length > 0 || state.flag || state.pin || state.note) && (
          <div className="mt-1.5 flex flex-wrap items-center gap-1.5 text-xs">
            {marker && <span className={`rounded-sm px-1.5 font-bold ${TONE[marker.colour]}`}>{marker.letter}</span>}
            <LabelChips message={focusId} labels={labels} />
            {state.pin && <span>pinned</span>}
            {state.flag && (
              <span>
                flagged{state.flag.due && `, due ${dateText(state.flag.due, zone, new Date())}`}
                {state.flag.note && `, ${state.flag.note}`}
              </span>
            )}
            {state.note && <span className="rounded-sm bg-amber-soft px-1.5 text-ink">note: {state.note}</span>}
          </div>
        )}
      </div>
      {reading.phase === "failed" && reading.id === focusId && (
        <p role="alert" className="mt-3 rounded-md bg-brick-soft px-3 py-2 text-[13px]">
          {reading.why}
        </p>
      )}
      {!message && <p className="mt-3 max-w-[62ch] text-ink-2">{mailbox.text(row, "preview")}</p>}
      {message && (
        <>
          {message.notes.length > 0 && (
            <p className="mt-2 rounded-md bg-slate-soft px-3 py-1.5 text-[13px]">{message.notes.join(" ")}</p>
          )}
          <div className="mt-2 flex flex-wrap gap-1 text-xs print:hidden" role="group" aria-label="Show as">
            {SHOWN.map(([name, title]) => (
              <button
                key={name}
                type="button"
                aria-pressed={shown === name}
                onClick={() => setChoice({ id: focusId, shown: name })}
                className={`rounded-sm px-2 py-0.5 ${shown === name ? "bg-ink text-paper" : "border border-rule bg-sheet"}`}
              >
                {title}
              </button>
            ))}
            <span className="ml-auto flex gap-3 self-center text-ink-2">
              {message.keptUntil && <span>deleted for good on {dateText(message.keptUntil, zone, new Date())}</span>}
              <button type="button" onClick={() => set({ dialog: { kind: "why" } })} className="underline">
                why here?
              </button>
              <Link href="/ledger" onClick={() => set({ ledgerMessage: focusId })} className="underline">
                history
              </Link>
            </span>
          </div>
          <Body message={message} shown={shown} sought={sought} textPx={sizePx} />
          <Files message={message} />
          <Tasks message={message} zone={zone} />
          <ThreadList message={message} zone={zone} />
        </>
      )}
    </section>
  );
}
