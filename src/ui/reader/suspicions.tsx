"use client";
import type { Message } from "@/core/api";

/** What about a message does not fit, with the evidence: said before its words are read. */
export function Suspicions({
  of = [],
}: {
  /** Not there in what was kept by an older version. */ readonly of?: Message["suspicions"];
}) {
  if (of.length === 0) return null;
  return (
    <section
      aria-label="What does not fit"
      className="mt-2 rounded-md border border-brick bg-brick-soft px-3 py-1.5 text-[13px]"
    >
      <b>{of.length === 1 ? "Something here does not fit" : "Some things here do not fit"}</b>
      <ul>
        {of.map(({ sign, evidence }) => (
          <li key={sign} className="flex gap-2 break-words">
            <span aria-hidden>–</span>
            <span className="min-w-0 flex-1">{evidence}.</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
