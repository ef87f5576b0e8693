"use client";
import { useState } from "react";
import { readWhen } from "@/core/when";
import { useNow } from "../parts/now";
import { dateText } from "../parts/words";
import { useView } from "../state/store";
import type { Fields } from "../state/letters";

interface Props {
  readonly fields: Partial<Fields>;
  readonly onPut: (fields: Partial<Fields>) => void;
}

/** When a letter is sent, and where its copy goes. */
export function LaterBar({ fields, onPut }: Props) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const folders = useView((v) => v.directory.folders);
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("tomorrow 8");
  const when = readWhen(typed, new Date(), zone);
  const nowMs = useNow(1000);
  const late = when.ok && when.at.getTime() > nowMs;
  const { sendAt = null, sent = null, sentToo = false } = fields;
  const said = [
    sendAt !== null && `leaves ${dateText(sendAt, zone, new Date())}`,
    sent !== null && `copy to ${sent}${sentToo ? " and Sent" : ""}`,
  ].filter(Boolean);
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="rounded-sm border border-edge bg-sheet px-2.5 py-1 text-[13px]"
      >
        {said.length > 0 ? said.join(", ") : "Later…"}
      </button>
      {open && (
        <div className="order-last grid w-full gap-1.5 border-t border-rule-soft pt-2 text-[13px]">
          <form
            className="flex flex-wrap items-center gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (when.ok && late) onPut({ sendAt: when.at.toISOString() });
            }}
          >
            <label className="flex items-center gap-2">
              Send
              <input
                autoFocus
                value={typed}
                aria-label="When it is sent"
                onChange={({ target }) => setTyped(target.value)}
                className="w-36 rounded-sm border border-edge bg-sheet px-2 py-1"
              />
            </label>
            <span role="status" className={when.ok && late ? "text-ink-2" : "text-brick"}>
              {when.ok ? (late ? dateText(when.at.toISOString(), zone, new Date()) : "That is over.") : when.problem}
            </span>
            <button type="submit" disabled={!late} className="rounded-sm border border-edge bg-sheet px-2 py-1">
              Set
            </button>
            {sendAt !== null && (
              <button type="button" onClick={() => onPut({ sendAt: null })} className="underline">
                at once instead
              </button>
            )}
          </form>
          <label className="flex flex-wrap items-center gap-2">
            The sent copy goes to
            <select
              value={sent ?? ""}
              onChange={({ target }) => onPut({ sent: target.value === "" ? null : target.value })}
              className="rounded-sm border border-edge bg-sheet px-1 py-1"
            >
              <option value="">Sent</option>
              {folders
                .filter(({ role }) => role === null || role === "archive")
                .map(({ id, path }) => (
                  <option key={id} value={path}>
                    {path}
                  </option>
                ))}
            </select>
            {sent !== null && (
              <span className="flex items-center gap-1">
                <input
                  type="checkbox"
                  checked={sentToo}
                  aria-label="and to Sent"
                  onChange={({ target }) => onPut({ sentToo: target.checked })}
                />
                and to Sent
              </span>
            )}
          </label>
        </div>
      )}
    </>
  );
}
