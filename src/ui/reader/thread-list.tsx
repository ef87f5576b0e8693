"use client";
import { useState } from "react";
import type { Message } from "@/core/api";
import { dateText } from "../parts/words";
import { get } from "../state/api";
import { focusMessage } from "../state/browse";
import { PlainText } from "./plain-text";

/** Older messages beyond this many are folded into one line. */
const SHOWN = 4;

function Other({ row, zone }: { readonly row: Message["threadRows"][number]; readonly zone: string }) {
  const [text, setText] = useState<string | null>(null);
  const open = async () => {
    if (text !== null) return setText(null);
    if (focusMessage(row.id)) return;
    setText("…");
    const message = await get<Message>(`/messages/${row.id}`).catch(() => null);
    setText(
      message?.text ??
        (message
          ? "(This message is HTML only: open it in its folder.)"
          : "It cannot be read now: the server is away."),
    );
  };
  return (
    <li className="border-b border-rule">
      <button
        type="button"
        onClick={open}
        aria-expanded={text !== null}
        className="flex w-full items-baseline gap-2 py-1.5 text-left text-[13px]"
      >
        <b className="shrink-0 font-semibold">{row.from.name || row.from.address}</b>
        <span className="min-w-0 flex-1 truncate text-ink-3">{row.preview}</span>
        <span className="shrink-0 text-xs text-ink-3">{row.folder}</span>
        <span className="num shrink-0 text-xs text-ink-2">{dateText(row.date, zone, new Date())}</span>
      </button>
      {text !== null && <PlainText text={text} />}
    </li>
  );
}

/** The other messages of the thread, the older ones folded. */
export function ThreadList({ message, zone }: { readonly message: Message; readonly zone: string }) {
  const [all, setAll] = useState(false);
  const others = message.threadRows.filter((row) => row.id !== message.id);
  if (others.length === 0) return null;
  const hidden = all ? 0 : Math.max(0, others.length - SHOWN);
  return (
    <section aria-label="Thread" className="mt-5 border-t border-rule pt-2">
      <h2 className="text-[13px] font-bold">
        Thread of {message.threadRows.length} <span className="font-normal text-ink-3">[ and ] step through it</span>
      </h2>
      <ul>
        {hidden > 0 && (
          <li>
            <button
              type="button"
              onClick={() => setAll(true)}
              className="w-full border-b border-rule py-1.5 text-left text-[13px] text-ink-2"
            >
              {hidden} older
            </button>
          </li>
        )}
        {others.slice(hidden).map((row) => (
          <Other key={row.id} row={row} zone={zone} />
        ))}
      </ul>
    </section>
  );
}
