"use client";
import type { Shown } from "../state/tally";
import { countText } from "../parts/words";

interface Props {
  readonly name: string;
  /** How deep it is nested. */
  readonly depth?: number;
  /** Null while it is not known. */
  readonly count: Shown | null;
  readonly on: boolean;
  /** Whether the share of old messages is shown beneath. */
  readonly bar?: boolean;
  readonly title?: string;
  readonly onGo: () => void;
  /** For places with others beneath: whether those are shown, and how to change that. */
  readonly open?: boolean | undefined;
  readonly onToggle?: (() => void) | undefined;
}

/** One place of the rack, with its count and how much of it is older than a week. */
export function Place({ name, depth = 0, count, on, bar = false, title, onGo, open, onToggle }: Props) {
  const share = count?.total ? Math.round((100 * (count.old ?? 0)) / count.total) : 0;
  return (
    <li className="relative">
      {onToggle && (
        <button
          type="button"
          aria-expanded={open}
          aria-label={`${open ? "Fold" : "Unfold"} ${name}`}
          onClick={onToggle}
          style={{ left: depth * 10 }}
          className="absolute top-[3px] w-3.5 text-center font-mono text-xs text-ink-3"
        >
          {open ? "−" : "+"}
        </button>
      )}
      <button
        type="button"
        aria-current={on ? "page" : undefined}
        onClick={onGo}
        style={{ paddingLeft: 14 + depth * 10 }}
        className={`grid w-full grid-cols-[1fr_auto] items-center py-[3px] pr-3.5 text-left ${on ? "bg-sheet font-bold" : "font-medium hover:bg-paper"}`}
        title={title ?? (bar && count?.old != null ? `${share} % older than a week` : name)}
      >
        <span className="truncate">{name}</span>
        <span className="num text-xs font-normal text-ink-2">{countText(count?.total)}</span>
        {bar && (
          <span aria-hidden className="col-span-2 mt-0.5 h-[3px] bg-rule">
            <span className="block h-[3px] bg-amber" style={{ width: `${share}%` }} />
          </span>
        )}
      </button>
    </li>
  );
}
