"use client";
import Link from "next/link";
import { useEffect, useRef, useState } from "react";
import type { Message } from "@/core/api";
import { textAt } from "@/core/columns";
import { provide } from "../bench/commands";
import { dateText, sizeText } from "../parts/words";
import { TONE } from "../parts/tone";
import { fileAddress, rawAddress } from "../state/api";
import { focusMessage } from "../state/browse";
import { mailbox, notify, set, useView } from "../state/store";
import { HtmlView } from "./html-view";
import { PlainText } from "./plain-text";
import { ThreadList } from "./thread-list";
import { useMessage, useReadAhead } from "./use-message";

type Shown = "message" | "plain" | "headers" | "source";
const SHOWN: readonly (readonly [Shown, string])[] = [
  ["message", "Message"],
  ["plain", "Plain text"],
  ["headers", "Headers"],
  ["source", "Source"],
];

function Source({ id }: { readonly id: number }) {
  const [text, setText] = useState("");
  useEffect(() => {
    let over = false;
    fetch(rawAddress(id))
      .then((response) => response.text())
      .then((raw) => !over && setText(raw.slice(0, 500_000)))
      .catch(() => !over && setText("The source cannot be read now: the server is away."));
    return () => void (over = true);
  }, [id]);
  return (
    <>
      <a href={rawAddress(id)} className="mt-2 inline-block underline" download>
        Save the source
      </a>
      <pre className="mt-2 font-mono text-xs break-all whitespace-pre-wrap">{text}</pre>
    </>
  );
}

function Body({ message, shown }: { readonly message: Message; readonly shown: Shown }) {
  if (shown === "source") return <Source id={message.id} />;
  if (shown === "headers")
    return (
      <dl className="mt-3 grid grid-cols-[minmax(90px,auto)_1fr] gap-x-3 gap-y-1 font-mono text-xs">
        {message.headers.map((header, i) => (
          <div key={i} className="contents">
            <dt className="text-ink-3">{header.name}</dt>
            <dd className="break-all">{header.value}</dd>
          </div>
        ))}
      </dl>
    );
  if (shown === "message" && message.html) return <HtmlView key={message.id} message={message} />;
  return <PlainText text={message.text ?? (message.html ? "This message has no plain text of its own." : "(empty)")} />;
}

function Files({ message }: { readonly message: Message }) {
  const files = message.files.filter((file) => !file.inline || !file.contentId);
  if (files.length === 0) return null;
  return (
    <ul className="mt-3 flex flex-wrap gap-1.5" aria-label="Attachments">
      {files.map((file) => (
        <li key={file.index}>
          <a
            href={fileAddress(message.id, file.index)}
            download={file.name}
            className="inline-flex gap-2 rounded-sm border border-rule bg-sheet px-2 py-1 text-[12.5px]"
          >
            {file.name} <span className="num text-ink-3">{sizeText(file.size)}</span>
          </a>
        </li>
      ))}
    </ul>
  );
}

/** Tasks made from the message; they lead to the task list, which leads back. */
function Tasks({ message, zone }: { readonly message: Message; readonly zone: string }) {
  if (message.tasks.length === 0) return null;
  return (
    <ul className="mt-3 border-t border-rule pt-2 text-[13px]" aria-label="Tasks">
      {message.tasks.map((task) => (
        <li key={task.id}>
          <Link href="/tasks" className={`underline ${task.done ? "line-through" : ""}`}>
            task: {task.title}
          </Link>
          {task.due && <span className="text-ink-2"> due {dateText(task.due, zone, new Date())}</span>}
        </li>
      ))}
    </ul>
  );
}

/** The focused message. What the columns know is shown at once; the rest when it has been read. */
export function Reader() {
  const focusId = useView((v) => v.focusId);
  const nextId = useView((v) => {
    const row = v.rows[v.focus + 1];
    return row === undefined ? null : (mailbox.columns.id[row] ?? null);
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
  const reading = useMessage(focusId, tasks);
  useReadAhead(nextId, tasks);

  useEffect(() => {
    box.current?.scrollTo(0, 0);
  }, [focusId]);

  const thread = reading.phase === "here" ? reading.message.threadRows : null;
  useEffect(() => {
    provide({
      readPage: (direction) => {
        const element = box.current;
        if (!element) return false;
        const before = element.scrollTop;
        element.scrollBy(0, direction * Math.max(80, element.clientHeight - 60));
        return element.scrollTop !== before;
      },
      threadStep: (direction) => {
        const at = thread?.findIndex((row) => row.id === focusId) ?? -1;
        const next = at < 0 ? undefined : thread?.[at + direction];
        if (!next)
          notify(
            direction > 0 ? "This is the last message of the thread." : "This is the first message of the thread.",
          );
        else if (!focusMessage(next.id))
          notify(
            `The ${direction > 0 ? "next" : "earlier"} message is in ${next.folder}, outside this list. Open it in the thread below.`,
          );
      },
    });
  }, [thread, focusId]);

  const row = focusId === null ? undefined : mailbox.rowOf(focusId);
  if (focusId === null || row === undefined || version < 0)
    return (
      <section aria-label="Message" className="bg-paper p-6 text-ink-2">
        No message is chosen.
      </section>
    );
  const state = mailbox.state(mailbox.idAt(row))!;
  const { columns } = mailbox;
  const message = reading.phase === "here" && reading.message.id === focusId ? reading.message : null;
  const from = textAt(columns, "fromName", row);
  const address = textAt(columns, "fromAddress", row);
  const marker = directory.markers.find((m) => m.id === state.marker);
  const labels = directory.labels.filter((label) => state.labels.includes(label.id));
  const people = (list: Message["to"]) => list.map((p) => p.name || p.address).join(", ");
  return (
    <section
      ref={box}
      aria-label="Message"
      tabIndex={-1}
      className="relative h-full min-h-0 overflow-y-auto bg-paper px-[18px] pt-3.5 pb-6"
    >
      <button
        type="button"
        className="mb-2 rounded-sm border border-rule bg-sheet px-2 py-1 text-[13px] md:hidden"
        onClick={() => set({ opened: false })}
      >
        Back to the list
      </button>
      <h1 className="mb-2 text-[19px] leading-tight font-semibold text-balance">
        {textAt(columns, "subject", row) || "(no subject)"}
      </h1>
      <div className="border-b border-rule pb-2.5 text-[13px] text-ink-2">
        <div className="flex flex-wrap justify-between gap-x-4">
          <span className="min-w-0">
            <b className="text-ink">{from || address || "No sender"}</b>{" "}
            {from && <span className="break-all">{address}</span>}
          </span>
          <span className="num whitespace-nowrap">
            {dateText(new Date(columns.dateMs[row]!).toISOString(), zone, new Date())}
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
            {labels.map((label) => (
              <span key={label.id} className={`rounded-sm px-1.5 ${TONE[label.colour]}`}>
                {label.name}
              </span>
            ))}
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
      {!message && <p className="mt-3 max-w-[62ch] text-ink-2">{textAt(columns, "preview", row)}</p>}
      {message && (
        <>
          {message.notes.length > 0 && (
            <p className="mt-2 rounded-md bg-slate-soft px-3 py-1.5 text-[13px]">{message.notes.join(" ")}</p>
          )}
          <div className="mt-2 flex gap-1 text-xs" role="group" aria-label="Show as">
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
            <Link
              href="/ledger"
              onClick={() => set({ ledgerMessage: focusId })}
              className="ml-auto self-center text-ink-2 underline"
            >
              history
            </Link>
          </div>
          <Body message={message} shown={shown} />
          <Files message={message} />
          <Tasks message={message} zone={zone} />
          <ThreadList message={message} zone={zone} />
        </>
      )}
    </section>
  );
}
