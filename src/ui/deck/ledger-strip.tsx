"use client";
import { memo, useMemo } from "react";
import type { EntryShape } from "@/core/api";
import { takeBack } from "../state/decide";
import { areReadings } from "../state/entries";
import { PracticeOffer } from "../practice/practice-bar";
import { useView } from "../state/store";
import { useSettled } from "../parts/settled";
import { clockText, countText, plural } from "../parts/words";

function entryText(entry: EntryShape): string {
  if (entry.kind !== "run") return `${entry.kind === "undo" ? "Took back" : "Did again"} ${entry.macro.name}`;
  return entry.macro.name;
}

interface EntryProps {
  readonly entry: EntryShape;
  readonly waiting: boolean;
  readonly zone: string;
}

/** One run; drawn anew only when something about it has changed. */
const Entry = memo(function Entry({ entry, waiting, zone }: EntryProps) {
  return (
    <li
      className="grid grid-cols-[46px_1fr_auto_auto] items-center gap-2 border-b border-rule py-[3px]"
      data-kind={entry.kind}
      data-state={entry.state}
    >
      <span className="num text-[11.5px] text-ink-3">{clockText(entry.at, zone)}</span>
      <span className={`truncate ${entry.state === "undone" ? "text-ink-3 line-through" : ""}`}>
        <b className="font-semibold">{entryText(entry)}</b>
        {`: ${entry.about || plural(entry.messages, "message")}`}
      </span>
      <span className="num text-ink-3">
        {waiting ? "waiting" : entry.state === "partly undone" ? "part left" : countText(entry.changed)}
      </span>
      {entry.kind === "run" && entry.state !== "undone" && entry.restorable > 0 ? (
        <button
          type="button"
          className="rounded-sm border border-rule bg-sheet px-1.5 text-[11px]"
          onClick={() => takeBack("undo", entry)}
          aria-label={`Take back ${entry.macro.name}`}
        >
          undo
        </button>
      ) : (
        <span />
      )}
    </li>
  );
});

const MOST_SHOWN = 30;

/** The last runs, and what has just happened. Between two keys that follow each other the list alone is painted. */
export function LedgerStrip() {
  const ledger = useView((v) => v.ledger);
  const waiting = useView((v) => v.waiting);
  const shown = useSettled(useMemo(() => ({ ledger, waiting }), [ledger, waiting]));
  const folded = useView((v) => v.folded);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  return useMemo(() => drawn(shown.ledger, shown.waiting, folded, zone), [shown, folded, zone]);
}

function drawn(ledger: readonly EntryShape[], waiting: number, folded: boolean, zone: string) {
  const waitingIds = new Set(ledger.slice(0, waiting).map((entry) => entry.id));
  // A run that found everything so already was told when it was made, and takes no place among the others.
  const isReading = areReadings(ledger);
  const shown = ledger
    .filter((entry) => !isReading(entry) && (entry.changed > 0 || entry.restorable > 0))
    .slice(0, MOST_SHOWN);
  return (
    // A layer of its own: with each key the browser goes through all that is clipped in one that changed, and that is much here.
    <section
      aria-label="Ledger"
      className="relative min-w-0 will-change-transform overflow-hidden border-l bg-well border-rule text-[12.5px] max-[1199px]:hidden"
    >
      {/* Out of the flow: the deck says how high the strip is, however many runs there are. */}
      <div className="absolute inset-0 flex flex-col px-3.5 pt-2.5 contain-strict">
        <h2 className="mb-1.5 flex justify-between text-xs font-semibold text-ink-2">
          Ledger
          <span className="flex gap-3 font-normal">
            <span>
              <kbd>U</kbd> undo
            </span>
            <span>
              <kbd>.</kbd> again
            </span>
          </span>
        </h2>
        {shown.length === 0 && (
          <div className="grid gap-1.5 text-ink-2">
            <p>Nothing has been decided yet.</p>
            <PracticeOffer />
          </div>
        )}
        {!folded && (
          <ol
            className="min-h-0 flex-1 overflow-y-auto"
            data-testid="ledger"
            tabIndex={0}
            aria-label="Runs, newest first"
          >
            {shown.map((entry) => (
              <Entry key={entry.id} entry={entry} waiting={waitingIds.has(entry.id)} zone={zone} />
            ))}
          </ol>
        )}
      </div>
    </section>
  );
}
