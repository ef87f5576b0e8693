"use client";
import Link from "next/link";
import type { Message } from "@/core/api";
import { Marked } from "../parts/marked";
import { TONE } from "../parts/tone";
import { dateText, plural } from "../parts/words";
import { mailbox, useView } from "../state/store";
import { LabelChips } from "./label-chips";

interface Props {
  readonly id: number;
  readonly row: number;
  /** What is known once it has been read. */
  readonly message: Message | null;
  readonly sought: readonly string[];
  /** As the one message of a pass: with its age above it. */
  readonly large: boolean;
}

const DAY_MS = 86_400_000;
const ORDINALS = ["first", "second", "third", "fourth", "fifth"];

/** "8 days old, second message in this conversation" */
function ageLine(dateMs: number, message: Message | null): string {
  const days = Math.floor((Date.now() - dateMs) / DAY_MS);
  const age = days < 1 ? "came today" : `${plural(days, "day")} old`;
  const before = message?.threadRows.filter(({ date }) => Date.parse(date) < dateMs).length ?? 0;
  if (before === 0) return age;
  return `${age}, ${ORDINALS[before] ?? `${before + 1}th`} message in this conversation`;
}

const people = (list: Message["to"]) => list.map((p) => p.name || p.address).join(", ");

/** What is on a message: marker, labels, pin, flag, note, and whether an answer is owed. */
function Marks({ id, row }: Pick<Props, "id" | "row">) {
  const directory = useView((v) => v.directory);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const state = mailbox.state(mailbox.idAt(row))!;
  const marker = directory.markers.find((m) => m.id === state.marker);
  const labels = directory.labels.filter((label) => state.labels.includes(label.id));
  if (
    !marker &&
    labels.length === 0 &&
    !state.flag &&
    !state.pin &&
    !state.note &&
    !state.owed &&
    !state.defer &&
    !state.back &&
    !state.await
  )
    return null;
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-1.5 text-xs">
      {marker && <span className={`rounded-sm px-1.5 font-bold ${TONE[marker.colour]}`}>{marker.letter}</span>}
      {state.back && (
        <span className="rounded-sm bg-slate-soft px-1.5 text-ink">
          {state.await === null
            ? `back: it was deferred until ${dateText(state.back, zone, new Date())}`
            : `back: no answer came by ${dateText(state.back, zone, new Date())}`}
        </span>
      )}
      {state.await && !state.back && (
        <span className="rounded-sm bg-amber-soft px-1.5 text-ink">
          an answer is awaited until {dateText(state.await, zone, new Date())}
        </span>
      )}
      {state.defer && (
        <span className="rounded-sm bg-slate-soft px-1.5 text-ink">
          comes back {dateText(state.defer, zone, new Date())}
        </span>
      )}
      {state.owed && <span className="rounded-sm bg-amber-soft px-1.5 text-ink">a reply is owed</span>}
      <LabelChips message={id} labels={labels} />
      {state.pin && <span>{state.hand ? `at hand until ${dateText(state.hand, zone, new Date())}` : "pinned"}</span>}
      {state.flag && (
        <span>
          flagged{state.flag.due && `, due ${dateText(state.flag.due, zone, new Date())}`}
          {state.flag.note && `, ${state.flag.note}`}
        </span>
      )}
      {state.note && <span className="rounded-sm bg-amber-soft px-1.5 text-ink">note: {state.note}</span>}
    </div>
  );
}

/** Subject, people, date and marks: the columns know them, so they are there at once. */
export function ReaderHead({ id, row, message, sought, large }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const from = mailbox.text(row, "fromName");
  const address = mailbox.text(row, "fromAddress");
  return (
    <>
      {large && (
        <p className="num mb-1 text-[13px] font-bold text-amber">{ageLine(mailbox.columns.dateMs[row]!, message)}</p>
      )}
      <h1
        className={`mb-2 leading-tight font-semibold text-balance ${large ? "text-[22px] md:text-[28px]" : "text-[19px]"}`}
      >
        <Marked text={mailbox.text(row, "subject") || "(no subject)"} sought={sought} />
      </h1>
      <div className="border-b border-rule pb-2.5 text-[13px] text-ink-2">
        <div className="flex flex-wrap justify-between gap-x-4">
          <span className="min-w-0">
            <b className="text-ink">{from || address || "No sender"}</b>{" "}
            {address && (
              <Link
                href={`/contacts?of=${encodeURIComponent(address)}`}
                prefetch={false}
                title="All that went to and fro with them"
                className="break-all hover:underline"
              >
                {from ? address : "about them"}
              </Link>
            )}
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
        <Marks id={id} row={row} />
      </div>
    </>
  );
}
