"use client";
import type { Colour } from "@/core/place";
import { WEEK_MS } from "@/core/list";
import type { Shown } from "../state/tally";
import { useNow } from "../parts/now";
import { TONE } from "../parts/tone";
import { ageText, countText, plural } from "../parts/words";

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
  readonly colour?: Colour;
  readonly onGo: () => void;
  /** For places with others beneath: whether those are shown, and how to change that. */
  readonly open?: boolean | undefined;
  readonly onToggle?: (() => void) | undefined;
}

/** What the figures say, in words. */
function countsText(name: string, count: Shown | null, nowMs: number): string {
  if (!count?.total) return name;
  const parts = [
    plural(count.total, "message"),
    count.unread > 0 && `${countText(count.unread)} unread`,
    !Number.isNaN(count.oldestMs) && `the oldest ${ageText(nowMs - count.oldestMs)} old`,
    count.old !== null && `${Math.round((100 * count.old) / count.total)} % older than a week`,
  ];
  return `${name}: ${parts.filter(Boolean).join(", ")}`;
}

/** One place of the rack: how many are unread and how many there are, the age of the oldest, and how much is old. */
export function Place({ name, depth = 0, count, on, bar = false, title, colour, onGo, open, onToggle }: Props) {
  const nowMs = useNow(60_000);
  const share = count?.total ? Math.round((100 * (count.old ?? 0)) / count.total) : 0;
  const ageMs = count ? nowMs - count.oldestMs : NaN;
  return (
    <li className="relative">
      {onToggle && (
        <button
          type="button"
          aria-expanded={open}
          aria-label={`${open ? "Fold" : "Unfold"} ${title ?? name}`}
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
        className={`grid w-full grid-cols-[minmax(0,1fr)_auto_26px] items-center gap-x-1 py-[3px] pr-2.5 text-left ${on ? "bg-sheet font-bold" : "font-medium hover:bg-paper"}`}
        title={countsText(title ?? name, count, nowMs)}
      >
        <span className="flex min-w-0 items-center gap-1.5">
          {colour && <span aria-hidden className={`h-2.5 w-2.5 shrink-0 rounded-[2px] ${TONE[colour]}`} />}
          <span className="truncate">{name}</span>
        </span>
        <span className="num text-xs font-normal text-ink-2">
          {count !== null && count.unread > 0 && count.unread < count.total && (
            <>
              <b className="text-ink">{countText(count.unread)}</b>/
            </>
          )}
          <span
            className={count !== null && count.unread > 0 && count.unread === count.total ? "font-bold text-ink" : ""}
          >
            {countText(count?.total)}
          </span>
        </span>
        <span className={`num text-right text-[11px] font-normal ${ageMs > WEEK_MS ? "text-amber" : "text-ink-3"}`}>
          {Number.isNaN(ageMs) ? "" : ageText(ageMs)}
        </span>
        {bar && (
          <span aria-hidden className="col-span-3 mt-0.5 h-[3px] bg-rule">
            <span className="block h-[3px] bg-amber" style={{ width: `${share}%` }} />
          </span>
        )}
      </button>
    </li>
  );
}
