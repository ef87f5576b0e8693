"use client";
import type { SenderShape } from "@/core/api";
import { plural } from "../parts/words";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5";

interface Props {
  readonly rows: readonly SenderShape[];
  readonly onTick: (sources: readonly string[]) => void;
  readonly onDecline: (offered: readonly SenderShape[]) => void;
}

/** Whose mail is never read: offered a place of its own, aside. Nothing happens before the person says so. */
export function Offers({ rows, onTick, onDecline }: Props) {
  const offered = rows.filter(({ offer }) => offer !== null);
  if (offered.length === 0) return null;
  const [first] = offered;
  return (
    <section
      aria-label="Could stand aside"
      className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-rule bg-slate-soft px-3.5 py-1.5 text-[13px]"
    >
      <span className="min-w-0 truncate">
        {offered.length === 1
          ? `${first!.name} could stand aside: ${first!.offer}.`
          : `Mail of ${plural(offered.length, "sender")} is never read and could stand aside.`}
      </span>
      <button type="button" className={BUTTON} onClick={() => onTick(offered.map(({ source }) => source))}>
        {offered.length === 1 ? "Tick it" : "Tick them"}
      </button>
      <button type="button" className={BUTTON} onClick={() => onDecline(offered)}>
        {offered.length === 1 ? "Do not offer it" : "Do not offer them"}
      </button>
    </section>
  );
}
