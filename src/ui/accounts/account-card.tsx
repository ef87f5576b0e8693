import { useState } from "react";
import type { AccountShape } from "@/core/api";
import { BUTTON } from "../contacts/change";
import { clockText, countText, plural } from "../parts/words";
import { useView } from "../state/store";
import { Connect } from "./connect";
import { Folders } from "./folders";
import { put } from "./put";

/** How an account is, in one sentence. */
export function stateText({ kind, isPaused, trouble, doing, waiting, coming, askedAt }: AccountShape): string {
  if (trouble) return `${trouble} It is asked again by itself; what is decided meanwhile waits.`;
  if (kind === "simulated")
    return "Ships with the app: it brings mail and takes letters, and nothing leaves this machine.";
  if (isPaused) return "Paused: nothing comes in and nothing is put on the server.";
  if (doing) return `It is ${doing}.`;
  if (waiting > 0) return `${plural(waiting, "decision")} on the way to the server.`;
  if (coming > 0) return "Up to date, but for texts that are to come.";
  return askedAt === null ? "Not asked yet." : "Up to date.";
}

const leftText = (seconds: number): string =>
  seconds < 90 ? `${plural(Math.ceil(seconds), "second")} left` : `${plural(Math.ceil(seconds / 60), "minute")} left`;

/** How far it is, and at the speed since it was first seen here, how long it still takes. */
function Progress({ done, total, atMs }: Pick<AccountShape, "done" | "total"> & { readonly atMs: number }) {
  const [first] = useState({ done, atMs });
  const speed = (1000 * (done - first.done)) / Math.max(1, atMs - first.atMs);
  return (
    <p className="flex items-center gap-2">
      <progress value={done} max={total} aria-label="Progress" className="h-1.5 w-40" />
      <span className="num text-xs">
        {countText(done)} of {countText(total)}
      </span>
      {speed > 0 && done < total && (
        <span className="text-ink-2">
          {countText(Math.round(speed))} a second, {leftText((total - done) / speed)}
        </span>
      )}
    </p>
  );
}

/** Giving up asks what becomes of the mail here. */
function GiveUp({ account, onBack }: { readonly account: AccountShape; readonly onBack: () => void }) {
  const { id, address, messages, coming } = account;
  const mail = messages === 0 ? "It has no mail here." : `Its ${plural(messages, "message")} here:`;
  return (
    <div role="group" aria-label={`Give up ${address}`} className="grid gap-2 rounded-sm bg-amber-soft p-2">
      {coming > 0 && (
        <p>
          Of {plural(coming, "message")} only the headers are here yet. Given up now, their texts stay on the server
          alone.
        </p>
      )}
      <p>Tachyne forgets the account and its password. The server keeps everything it has. {mail}</p>
      <p className="flex flex-wrap gap-2">
        <button
          type="button"
          autoFocus
          className={BUTTON}
          onClick={() =>
            void put("DELETE", `/accounts/${id}`, undefined, `${address} is given up; its mail stays here.`)
          }
        >
          Keep it here
        </button>
        {messages > 0 && (
          <button
            type="button"
            className={BUTTON}
            onClick={() =>
              void put(
                "DELETE",
                `/accounts/${id}?mail=trash`,
                undefined,
                `${address} is given up; its mail is in the trash, and U brings it back.`,
              )
            }
          >
            Put it into the trash
          </button>
        )}
        <button type="button" className={BUTTON} onClick={onBack}>
          Leave the account
        </button>
      </p>
    </div>
  );
}

/** One account: how it is, and what can be done about it. @param atMs when that was read, milliseconds since 1970 */
export function AccountCard({ account, atMs }: { readonly account: AccountShape; readonly atMs: number }) {
  const [open, setOpen] = useState<"change" | "folders" | "give up" | null>(null);
  const {
    id,
    kind,
    name,
    address,
    trouble,
    doing,
    done,
    total,
    askedAt,
    messages,
    coming,
    waiting,
    refused,
    isPaused,
    servers,
  } = account;
  const called = kind === "simulated" ? "Simulated service" : name || address;
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const close = () => setOpen(null);
  return (
    <li className="grid gap-2 border-b border-rule px-3.5 py-3 text-[13px]" data-account={id}>
      <p className="flex flex-wrap items-baseline gap-x-3">
        <b className="text-[15px]">{called}</b>
        {kind === "internet" && name !== "" && <span className="text-ink-2">{address}</span>}
        {servers && <span className="text-ink-2">{servers.imap.host}</span>}
      </p>
      <p role={trouble ? "alert" : "status"} className={trouble ? "rounded-sm bg-amber-soft px-2 py-1" : ""}>
        {stateText(account)}
      </p>
      {doing && total > 0 && <Progress key={`${doing} ${total}`} done={done} total={total} atMs={atMs} />}
      {kind === "internet" && (
        <p className="flex flex-wrap gap-x-4 text-ink-2">
          <span>{plural(messages, "message")} here</span>
          {coming > 0 && <span>{plural(coming, "text")} still on the server</span>}
          <span>{countText(waiting)} waiting</span>
          {askedAt && <span>last answer {clockText(askedAt, zone)}</span>}
        </p>
      )}
      {refused > 0 && (
        <p className="flex flex-wrap items-center gap-2 rounded-sm bg-amber-soft px-2 py-1">
          The server does not do what is wanted with {plural(refused, "message")}; here it is done.
          <button
            type="button"
            className={BUTTON}
            onClick={() => void put("POST", `/accounts/${id}/refused`, undefined, "It is tried again.")}
          >
            Try again
          </button>
        </p>
      )}
      {kind === "internet" && open === null && (
        <p className="flex flex-wrap gap-2">
          <button
            type="button"
            className={BUTTON}
            onClick={() =>
              void put(
                "PATCH",
                `/accounts/${id}`,
                { isPaused: !isPaused },
                isPaused ? `${called} goes on.` : `${called} is paused.`,
              )
            }
          >
            {isPaused ? "Go on" : "Pause"}
          </button>
          <button type="button" className={BUTTON} onClick={() => setOpen("change")}>
            Change
          </button>
          <button type="button" className={BUTTON} onClick={() => setOpen("folders")}>
            Folders
          </button>
          <button type="button" className={BUTTON} onClick={() => setOpen("give up")}>
            Give up
          </button>
        </p>
      )}
      {open === "change" && <Connect of={account} onDone={close} />}
      {open === "folders" && <Folders account={account} onDone={close} />}
      {open === "give up" && <GiveUp account={account} onBack={close} />}
    </li>
  );
}
