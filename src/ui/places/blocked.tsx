"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { blocked } from "../state/reads";
import { change } from "./act";

/** Senders whose mail comes in as junk: let go one by one, and added by hand. */
export function Blocked() {
  const { data = [] } = useQuery(blocked);
  const [fresh, setFresh] = useState("");
  return (
    <section aria-labelledby="blocked-title" className="text-[13px]">
      <h2 id="blocked-title" className="mb-1 font-bold">
        Blocked senders
      </h2>
      <form
        onSubmit={async (event) => {
          event.preventDefault();
          const address = fresh.trim();
          if (address === "") return;
          if (await change("POST", "/blocked", { address }, `${address} is blocked. U takes it back.`))
            setFresh((now) => (now.trim() === address ? "" : now));
        }}
        className="mb-2 flex gap-2"
      >
        <input
          aria-label="Address to block"
          value={fresh}
          placeholder="Address to block"
          onChange={(event) => setFresh(event.target.value)}
          className="min-w-0 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1"
        />
        <button type="submit" className="rounded-sm bg-ink px-3 py-1 text-paper">
          Block
        </button>
      </form>
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
