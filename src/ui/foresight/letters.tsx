"use client";
import { useQuery } from "@tanstack/react-query";
import type { MacroShape } from "@/core/api";
import { domainOf } from "@/core/letter";
import type { Answers } from "@/core/macro";
import { plural } from "../parts/words";
import { dryRun } from "../state/reads";

interface Props {
  readonly macro: MacroShape;
  readonly ids: readonly number[];
  readonly answers: Answers;
}

/** Letters a run would write: whom they go to, and what the first of them say. Only the server can tell. */
export function Letters({ macro, ids, answers }: Props) {
  const { data, error } = useQuery(dryRun(macro, ids, answers));
  if (error) return <p role="alert">{error.message}</p>;
  if (!data) return <p role="status">Reading whom it writes to…</p>;
  const sent = data.letters.filter(({ goes }) => goes === "outbox");
  const domains = new Map<string, number>();
  for (const address of sent.flatMap(({ to }) => to)) {
    const domain = domainOf(address);
    domains.set(domain, (domains.get(domain) ?? 0) + 1);
  }
  const byCount = [...domains].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0]));
  return (
    <section aria-label="Letters" className="mb-3 rounded-md bg-slate-soft px-3 py-2 text-[13px]">
      <p className="font-bold">
        {sent.length > 0 &&
          `${plural(sent.length, "letter")} will go by ${sent.length === 1 ? "itself" : "themselves"}`}
        {sent.length < data.letters.length && `${plural(data.letters.length - sent.length, "draft")} will wait for you`}
        .
      </p>
      {byCount.length > 0 && (
        <p className="text-ink-2">
          {byCount
            .slice(0, 12)
            .map(([domain, count]) => `${domain} ${count}`)
            .join(", ")}
          {byCount.length > 12 && `, and ${plural(byCount.length - 12, "more domain")}`}
        </p>
      )}
      {data.letters
        .filter(({ text }) => text !== null)
        .map(({ message, to, subject, text }) => (
          <details key={message} className="mt-1">
            <summary>
              <b>{subject}</b> to {to.join(", ") || "nobody yet"}
            </summary>
            <p className="max-h-40 overflow-y-auto rounded-sm bg-sheet px-2 py-1 whitespace-pre-wrap">{text}</p>
          </details>
        ))}
    </section>
  );
}
