"use client";
import { useEffect, useState, type ReactNode } from "react";
import { dateText } from "../parts/words";
import { takeNewer } from "../state/pages";
import { set, useView } from "../state/store";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]";

function Bar({ tone, name, children }: { readonly tone: string; readonly name: string; readonly children: ReactNode }) {
  return (
    <div
      role="status"
      data-testid={name}
      className={`flex shrink-0 items-center gap-3 border-b border-rule px-3.5 py-1.5 text-[13px] text-ink md:border-t md:border-b-0 print:hidden ${tone}`}
    >
      {children}
    </div>
  );
}

/** A server that starts anew is back sooner; nobody needs to hear of it. */
const LATER_MS = 4000;

/** On every screen while the server does not answer: of when what is shown is, and what becomes of what is done. */
export function AwayBar() {
  const asOf = useView((v) => v.asOf);
  const why = useView((v) => v.awayWhy);
  const letters = useView((v) => v.lettersWaiting);
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [shown, setShown] = useState<number | null>(null);
  useEffect(() => {
    if (asOf === null) return;
    const timer = setTimeout(() => setShown(asOf), LATER_MS);
    return () => clearTimeout(timer);
  }, [asOf]);
  if (asOf === null || shown !== asOf) return null;
  return (
    <Bar tone="bg-amber-soft" name="away">
      <b>{why === null ? "No connection" : "Nothing can be stored"}</b>
      <span className="min-w-0 flex-1">
        {why !== null && `${why} `}Shown as of {dateText(new Date(asOf).toISOString(), zone, new Date())}. What you
        decide and write is kept here and goes once the server {why === null ? "answers" : "can"}
        {letters > 0 && ` (${letters === 1 ? "1 letter waits" : `${letters} letters wait`})`}.
      </span>
    </Bar>
  );
}

/** A newer version of the app is offered; nobody is made to take it in the middle of something. */
export function NewerBar() {
  const isThere = useView((v) => v.newerVersion);
  if (!isThere) return null;
  return (
    <Bar tone="bg-slate-soft" name="newer">
      <span className="min-w-0 flex-1">A newer version of Tachyne is here.</span>
      <button type="button" className={BUTTON} onClick={takeNewer}>
        Load it
      </button>
      <button type="button" className={BUTTON} onClick={() => set({ newerVersion: false })}>
        Later
      </button>
    </Bar>
  );
}
