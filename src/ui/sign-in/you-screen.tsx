"use client";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { HeaderNotice } from "../parts/notice";
import { useScreenKeys } from "../parts/screen-keys";
import { write } from "../state/api";
import { redoLast, undoLast } from "../state/edits";
import { signedIn } from "../state/reads";
import { useView } from "../state/store";
import { Codes } from "./codes";
import { Invite } from "./invite";
import { signOut } from "./leave";
import { Passkeys } from "./passkeys";
import { PasswordChange } from "./password-change";
import { Prove } from "./prove";
import { BUTTON, Sessions } from "./sessions";
import { Tokens } from "./tokens";

/** How somebody signs in, where they are signed in, and leaving. */
export function YouScreen() {
  const person = useView((v) => v.home?.person);
  const { data, error, refetch } = useQuery(signedIn);
  const [isLeaving, setLeaving] = useState(false);
  useScreenKeys({ undo: undoLast, redo: redoLast });
  const leave = async () => {
    setLeaving(true);
    await signOut();
    setLeaving(false);
  };
  return (
    <main id="main" className="flex h-full flex-col" data-ready={data !== undefined || undefined}>
      <header className="flex min-h-[46px] flex-wrap items-center gap-x-3 gap-y-1.5 border-b border-rule px-3.5 py-1.5">
        <h1 className="text-[15px] font-bold">You</h1>
        <span className="text-[13px] text-ink-2">
          {person?.name}, {data?.address ?? person?.address}
        </span>
        <HeaderNotice />
        <button
          type="button"
          disabled={isLeaving}
          onClick={() => void leave()}
          className="rounded-sm bg-ink px-3 py-1 text-[13px] text-paper disabled:bg-ink-3"
        >
          {isLeaving ? "Signing out…" : "Sign out"}
        </button>
      </header>
      {error && (
        <p role="alert" className="bg-brick-soft px-3.5 py-2">
          {error.message}{" "}
          <button type="button" onClick={() => void refetch()} className={BUTTON}>
            Read again
          </button>
        </p>
      )}
      {data && (
        <div className="min-h-0 flex-1 overflow-y-auto text-[13px]">
          <Sessions
            sessions={data.sessions}
            onEnd={(id) => write("DELETE", `/sessions/${id}`).then(() => refetch())}
            onEndOthers={() => write("DELETE", "/sessions").then(() => refetch())}
          />
          {data.mustProve && (
            <Prove hasPassword={data.hasPassword} hasPasskey={data.passkeys.length > 0} onDone={() => void refetch()} />
          )}
          <Passkeys passkeys={data.passkeys} isProved={!data.mustProve} onDone={() => void refetch()} />
          <PasswordChange hasPassword={data.hasPassword} onDone={() => void refetch()} />
          <Codes
            codes={data.codes}
            hasPassword={data.hasPassword}
            isProved={!data.mustProve}
            onDone={() => void refetch()}
          />
          <Tokens isProved={!data.mustProve} onDone={() => void refetch()} />
          {data.mayInvite && <Invite />}
        </div>
      )}
    </main>
  );
}
