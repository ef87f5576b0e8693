"use client";
import { useQuery } from "@tanstack/react-query";
import type { EntryShape } from "@/core/api";
import { stepsText } from "@/core/macro";
import { cellText } from "../parts/cell-text";
import { clockText, countText, plural } from "../parts/words";
import { takeBack } from "../state/decide";
import { entryDetail } from "../state/reads";
import { reasonText } from "../state/reasons";
import { useView } from "../state/store";
import { NotByThisRule } from "./by-rule";

/** What an entry changed, read when it is opened. */
export function Detail({ entry }: { readonly entry: EntryShape }) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const { data: detail, error } = useQuery(entryDetail(entry.id, entry.state));
  if (error) return <p role="alert">{error.message}</p>;
  if (!detail) return <p className="py-2 text-ink-2">Reading…</p>;
  return (
    <div className="py-2">
      <NotByThisRule entry={entry} messages={detail.changes.map(({ message }) => message)} />
      {entry.macro.steps.length > 0 && <p className="mb-1 text-xs text-ink-2">{stepsText(entry.macro.steps)}</p>}
      <table className="w-full table-fixed text-[13px]">
        <tbody>
          {detail.changes.map((change) => (
            <tr key={change.message} className="border-b border-rule-soft align-top">
              <td className="w-2/5 truncate py-1 pr-3">{change.subject || "(no subject)"}</td>
              <td className="py-1">
                {Object.keys(change.after)
                  .map(
                    (cell) => `${cell}: ${cellText(change.before[cell], zone)} → ${cellText(change.after[cell], zone)}`,
                  )
                  .concat(change.made)
                  .join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {entry.changed > detail.changes.length && (
        <p className="mt-1 text-xs text-ink-2">and {countText(entry.changed - detail.changes.length)} more.</p>
      )}
      {detail.also.length > 0 && <p className="mt-1 text-[13px]">{detail.also.join(", ")}</p>}
      {detail.skipped.length > 0 && (
        <details className="mt-1 text-[13px]">
          <summary className="cursor-pointer">{countText(entry.skipped)} left alone</summary>
          <ul className="pl-4 text-ink-2">
            {detail.skipped.map((skip, i) => (
              <li key={i}>
                message {skip.message}
                {skip.cell && `, ${skip.cell}`}: {reasonText(skip.reason)}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

const NAMES = { run: "", undo: "Took back ", redo: "Did again " } as const;

interface EntryProps {
  readonly entry: EntryShape;
  /** Whether what it changed is shown: beside the list, or beneath it where there is no room. */
  readonly chosen: boolean;
  readonly onChoose: () => void;
}

/** One entry: what it was, what has become of it, and a key to take it back or do it again. */
export function Entry({ entry, chosen, onChoose }: EntryProps) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const isRun = entry.kind === "run";
  return (
    <li className="border-b border-rule text-[13.5px]" data-entry={entry.id} data-state={entry.state}>
      <div className="grid grid-cols-[52px_minmax(0,1fr)_auto_64px] items-center gap-3 py-1">
        <span className="num text-xs text-ink-3">{clockText(entry.at, zone)}</span>
        <button
          type="button"
          aria-pressed={chosen}
          onClick={onChoose}
          className={`truncate text-left ${chosen ? "underline" : ""} ${isRun && entry.state === "undone" ? "text-ink-3 line-through" : ""}`}
        >
          <b className="font-semibold">
            {NAMES[entry.kind]}
            {entry.macro.name}
          </b>
          {`: ${entry.about || plural(entry.messages, "message")}`}
        </button>
        <span className="num text-xs text-ink-2">
          {entry.actor !== "person" && `by the ${entry.actor}, `}
          {countText(entry.changed)} changed
          {isRun && entry.state === "done" && entry.changed > 0 && entry.restorable === 0 && ", for good"}
          {entry.skipped > 0 && `, ${countText(entry.skipped)} left alone`}
          {entry.state === "partly undone" && ", partly taken back"}
        </span>
        {isRun && (entry.restorable > 0 || entry.state === "undone") ? (
          <button
            type="button"
            onClick={() => takeBack(entry.state === "undone" ? "redo" : "undo", entry)}
            className="rounded-sm border border-rule bg-sheet px-2 text-xs"
          >
            {entry.state === "undone" ? "redo" : "undo"}
          </button>
        ) : (
          <span />
        )}
      </div>
      {chosen && (
        <div className="lg:hidden">
          <Detail entry={entry} />
        </div>
      )}
    </li>
  );
}
