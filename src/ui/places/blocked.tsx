"use client";
import { useQuery } from "@tanstack/react-query";
import { AddLine } from "../parts/add-line";
import { blocked } from "../state/reads";
import { change } from "./act";

/** Senders whose mail comes in as junk: let go one by one, and added by hand. */
export function Blocked() {
  const { data = [] } = useQuery(blocked);
  return (
    <section aria-labelledby="blocked-title" className="text-[13px]">
      <h2 id="blocked-title" className="mb-1 font-bold">
        Blocked senders
      </h2>
      <AddLine
        label="Address to block"
        verb="Block"
        onAdd={(address) => change("POST", "/blocked", { address }, `${address} is blocked. U takes it back.`)}
        className="mb-2"
      />
      <ul aria-label="All blocked senders" className="max-h-72 overflow-y-auto">
        {data.map(({ address }) => (
          <li key={address} className="flex items-center gap-2 border-b border-rule-soft py-0.5">
            <span className="min-w-0 flex-1 truncate" title={address}>
              {address}
            </span>
            <button
              type="button"
              aria-label={`Unblock ${address}`}
              onClick={() =>
                change(
                  "DELETE",
                  `/blocked/${encodeURIComponent(address)}`,
                  undefined,
                  `Mail of ${address} comes into the inbox again. U takes it back.`,
                )
              }
              className="rounded-sm border border-rule bg-sheet px-1.5 py-0.5 text-xs"
            >
              unblock
            </button>
          </li>
        ))}
        {data.length === 0 && <li className="text-ink-2">Nobody is blocked.</li>}
      </ul>
    </section>
  );
}
