"use client";
import Link from "next/link";
import type { Message } from "@/core/api";
import { useAfterPaint } from "../parts/use-after-paint";
import { dateText } from "../parts/words";
import { set, useView } from "../state/store";
import { Belongs } from "./belongs";
import { Body, Files, Tasks } from "./message-body";
import { Invitation } from "./invitation";
import { OnItsWay } from "./on-its-way";
import { ShowAs, type Shown } from "./show-as";
import { Suspicions } from "./suspicions";
import { ThreadList } from "./thread-list";

const CALENDAR = new Set(["text/calendar", "application/ics"]);

interface PartProps {
  readonly message: Message;
  readonly shown: Shown;
  readonly onShow: (shown: Shown) => void;
}

/** What stands over its words: its notes, and the ways to look at it. */
function Above({ message, shown, onShow }: PartProps) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  return (
    <>
      <OnItsWay message={message.id} />
      {message.notes.length > 0 && (
        <p className="mt-2 rounded-md bg-slate-soft px-3 py-1.5 text-[13px]">{message.notes.join(" ")}</p>
      )}
      <Suspicions of={message.suspicions} />
      {message.files.some(({ type }) => CALENDAR.has(type)) && <Invitation message={message} />}
      <ShowAs shown={shown} onShow={onShow}>
        <span className="ml-auto flex gap-3 self-center text-ink-2">
          {message.keptUntil && <span>deleted for good on {dateText(message.keptUntil, zone, new Date())}</span>}
          <button
            type="button"
            title="Why it is in this list"
            onClick={() => set({ dialog: { kind: "why" } })}
            className="underline"
          >
            why?
          </button>
          <button
            type="button"
            onClick={() => set({ dialog: { kind: "rule", from: { message: message.id } } })}
            title="A rule from this message"
            className="underline"
          >
            rule
          </button>
          <Link href="/ledger" onClick={() => set({ ledgerMessage: message.id })} className="underline">
            history
          </Link>
        </span>
      </ShowAs>
    </>
  );
}

/** What stands under its words. It comes a frame after them: nobody looks there first, and a key is not to wait for it. */
function Below({ message }: Pick<PartProps, "message">) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const painted = useAfterPaint(message);
  return (
    <>
      <Files message={painted} />
      <Tasks message={painted} zone={zone} />
      <Belongs id={painted.id} />
      <ThreadList message={painted} zone={zone} />
    </>
  );
}

interface Props extends Omit<PartProps, "message"> {
  /** null while it is being read: what shows its words stays, and has the next. */
  readonly message: Message | null;
  readonly sought: readonly string[];
  readonly textPx: number;
}

/** A message that has been read: its notes, the ways to look at it, its words, files, tasks and thread. */
export const ReaderMessage = ({ message, shown, onShow, sought, textPx }: Props) => (
  <>
    {message && <Above message={message} shown={shown} onShow={onShow} />}
    <Body message={message} shown={shown} sought={sought} textPx={textPx} />
    {message && <Below message={message} />}
  </>
);
