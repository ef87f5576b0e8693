"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { flushSync } from "react-dom";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { redoLast, undoLast } from "../state/edits";
import { lookForMail } from "../state/look-for-mail";
import { accounts } from "../state/reads";
import { AccountCard } from "./account-card";
import { Connect } from "./connect";

/** Accounts with mail servers: how they are, connecting one, pausing, mending and giving one up. */
export function AccountsScreen() {
  const { data, error, dataUpdatedAt } = useQuery(accounts);
  const [isConnecting, setConnecting] = useState(false);
  useScreenKeys({
    undo: () => void undoLast(),
    redo: () => void redoLast(),
    lookForMail: () => void lookForMail(),
    // What is typed right after the key is for the field that it brings.
    compose: () => flushSync(() => setConnecting(true)),
    escape: () => setConnecting(false),
  });
  const connected = (data ?? []).filter(({ kind }) => kind === "internet");
  return (
    <main id="main" className="flex h-full flex-col" data-ready={data !== undefined || undefined}>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">Accounts</h1>
        {!isConnecting && (
          <button
            type="button"
            onClick={() => setConnecting(true)}
            className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper"
          >
            Connect an account
          </button>
        )}
        {connected.length > 0 && (
          <button
            type="button"
            onClick={() => void lookForMail()}
            className="rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]"
          >
            Look for mail now
          </button>
        )}
        <HeaderNotice />
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}
        </p>
      )}
      <div className="min-h-0 flex-1 overflow-y-auto">
        {isConnecting && (
          <section aria-label="A new account" className="border-b border-rule bg-sheet px-3.5 py-3">
            <Connect of={null} onDone={() => setConnecting(false)} />
          </section>
        )}
        {data !== undefined && connected.length === 0 && !isConnecting && (
          <p className="max-w-[60ch] px-3.5 py-3 text-[13px] text-ink-2">
            No mail server is connected yet. With one, its mail is here, and everything decided here happens there too:
            moves, labels, flags, what is read, and letters that are sent.
          </p>
        )}
        <ul aria-label="All accounts">
          {(data ?? []).map((account) => (
            <AccountCard key={account.id} account={account} atMs={dataUpdatedAt} />
          ))}
        </ul>
      </div>
    </main>
  );
}
