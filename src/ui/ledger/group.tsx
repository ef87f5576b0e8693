import { useState } from "react";
import type { EntryShape } from "@/core/api";
import { clockText, countText, plural } from "../parts/words";
import { takeBack } from "../state/decide";
import { useView } from "../state/store";
import { Entry } from "./entry";

interface Props {
  readonly entries: readonly EntryShape[];
  readonly chosen: string | null;
  readonly onChoose: (id: string) => void;
}

/** What a rule did in one minute, piece by piece: one line, with a key that takes all of it back. */
export function Group({ entries, chosen, onChoose }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [isOpen, setOpen] = useState(false);
  const [first] = entries;
  if (!first) return null;
  const sum = (of: (entry: EntryShape) => number) => entries.reduce((all, entry) => all + of(entry), 0);
  const left = entries.filter(({ restorable, state }) => restorable > 0 && state !== "undone");
  return (
    <li data-group={entries.length}>
      <div className="grid grid-cols-[52px_minmax(0,1fr)_auto_64px] items-center gap-3 border-b border-rule py-1 text-[13.5px]">
        <span className="num text-xs text-ink-3">{clockText(first.at, zone)}</span>
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
          className={`truncate text-left ${left.length === 0 ? "text-ink-3 line-through" : ""}`}
        >
          <b className="font-semibold">{first.macro.name}</b>:{" "}
          {plural(
            sum(({ messages }) => messages),
            "message",
          )}{" "}
          in {plural(entries.length, "piece")}
        </button>
        <span className="num text-xs text-ink-2">by the rule, {countText(sum(({ changed }) => changed))} changed</span>
        {left.length > 0 ? (
          <button
            type="button"
            onClick={() => left.forEach((entry) => takeBack("undo", entry))}
            className="rounded-sm border border-rule bg-sheet px-2 text-xs"
          >
            undo all
          </button>
        ) : (
          <span />
        )}
      </div>
      {isOpen && (
        <ol className="border-l-2 border-rule pl-3">
          {entries.map((entry) => (
            <Entry key={entry.id} entry={entry} chosen={entry.id === chosen} onChoose={() => onChoose(entry.id)} />
          ))}
        </ol>
      )}
    </li>
  );
}
