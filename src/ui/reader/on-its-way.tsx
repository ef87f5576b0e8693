"use client";
import { wayText } from "../parts/way";
import { useNow } from "../parts/now";
import { write } from "../state/api";
import { openDraft, readOutgoing } from "../state/compose";
import { notify, useView } from "../state/store";

const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-1 text-[13px]";
const SECOND_MS = 1000;

/** How far a message on its way is, what its service said, and what can be done about it. */
export function OnItsWay({ message }: { readonly message: number }) {
  const way = useView((v) => v.outgoing.get(message));
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const nowMs = useNow(SECOND_MS);
  if (!way) return null;
  const does = async (what: string, done: string) => {
    try {
      await write("PATCH", `/outgoing/${message}`, { do: what });
      await readOutgoing();
      notify(done);
      if (what === "call back") openDraft(message);
    } catch (error) {
      notify(error instanceof Error ? error.message : "It could not be done. Try again.", "trouble");
    }
  };
  const { state, said, recipients } = way;
  const isOpen = state === "waiting" || state === "later" || state === "refused";
  return (
    <section
      aria-label="On its way"
      className={`mt-2 rounded-md px-3 py-2 text-[13px] ${state === "waiting" || state === "sending" ? "bg-slate-soft" : "bg-amber-soft"}`}
    >
      <p className="font-bold" data-testid="way">
        It {wayText(way, zone, nowMs)}.
      </p>
      {said && said !== "seen" && <p>{said}</p>}
      {recipients.some((one) => one.state !== "waiting") && (
        <ul>
          {recipients.map((one) => (
            <li key={one.address}>
              {one.address}: {one.state}
              {one.said && one.said !== said ? `, ${one.said}` : ""}
            </li>
          ))}
        </ul>
      )}
      {state === "unsure" && (
        <p className="max-w-[62ch]">
          The service may have taken it. Look in its own sent mail, or ask whom it went to; then send it again, or note
          that it went.
        </p>
      )}
      <p className="mt-1.5 flex flex-wrap gap-2">
        {isOpen && (
          <button
            type="button"
            className={BUTTON}
            onClick={() => void does("call back", "Called back: it is a draft again.")}
          >
            Call back
          </button>
        )}
        {(state === "waiting" || state === "later") && (
          <button type="button" className={BUTTON} onClick={() => void does("now", "It leaves now.")}>
            Send now
          </button>
        )}
        {(state === "unsure" || state === "refused") && (
          <button type="button" className={BUTTON} onClick={() => void does("again", "It is sent again.")}>
            Send again
          </button>
        )}
        {state === "unsure" && (
          <button type="button" className={BUTTON} onClick={() => void does("it went", "Noted: it is in Sent.")}>
            It went
          </button>
        )}
        {state === "sent" && (
          <button type="button" className={BUTTON} onClick={() => void does("seen", "Noted.")}>
            I have seen it
          </button>
        )}
      </p>
    </section>
  );
}
