"use client";
import { useState } from "react";
import { useNow } from "../parts/now";

const SECOND_MS = 1000;
const MINUTE_MS = 60_000;

/** "1:32" */
function clock(ms: number): string {
  const seconds = Math.max(0, Math.floor(ms / SECOND_MS));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

/** How long the message has been before the eyes: quiet, and in amber once it has been long. One for each message. */
export function LookTimer({ seconds }: { readonly seconds: number }) {
  const [begun] = useState(() => Date.now());
  const spent = useNow(SECOND_MS) - begun;
  const over = spent >= seconds * SECOND_MS;
  return (
    <span
      data-testid="look-timer"
      title={over ? "Longer than you want to give one message: set it aside?" : "How long you have looked at it"}
      className={`num shrink-0 ${over ? "font-bold text-amber" : "text-ink-3"}`}
    >
      {clock(spent)}
    </span>
  );
}

/** What is left of the time for the pass; its end is said, and nothing else happens. */
export function PassTimer({ since, minutes }: { readonly since: number; readonly minutes: number }) {
  const left = since + minutes * MINUTE_MS - useNow(SECOND_MS);
  return (
    <span className={`num shrink-0 ${left > 0 ? "text-ink-2" : "font-bold text-amber"}`} role="timer">
      {left > 0 ? `${clock(left)} of ${minutes} min` : "time is over"}
    </span>
  );
}
