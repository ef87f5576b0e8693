import { useState } from "react";
import type { SignedInShape } from "@/core/api";
import { dateText } from "../parts/words";
import { write } from "../state/api";
import { notify, useView } from "../state/store";
import { agentText } from "./agent";
import { byName, makePasskey, passkeysHere } from "./passkey";
import { FIRST_PROVE } from "./prove";
import { BUTTON } from "./sessions";

interface PasskeysProps {
  readonly passkeys: SignedInShape["passkeys"];
  /** Whether a new one may be made. */
  readonly isProved: boolean;
  readonly onDone: () => void;
}

/** Keys that devices keep for somebody. */
export function Passkeys({ passkeys, isProved, onDone }: PasskeysProps) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const [isBusy, setBusy] = useState(false);
  const text = (at: number) => dateText(new Date(at).toISOString(), zone, new Date());
  const here = passkeysHere();
  const during = async (work: Promise<unknown>, done: string) => {
    setBusy(true);
    await work.then(
      () => notify(done),
      (error: Error) => notify(error.message, "trouble"),
    );
    setBusy(false);
    onDone();
  };
  return (
    <section aria-labelledby="passkeys" className="border-b border-rule px-3.5 py-3">
      <h2 id="passkeys" className="pb-1.5 font-bold">
        Passkeys
      </h2>
      <p className="max-w-[60ch] pb-2 text-ink-2">
        A key that this device keeps: you sign in by unlocking the device, with no password and no code.
      </p>
      {passkeys.length > 0 && (
        <ul aria-label="Passkeys" className="pb-2">
          {passkeys.map(({ id, name, created, used }) => (
            <li key={id} className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-rule-soft py-1.5">
              <span className="w-64 max-w-full truncate font-semibold max-md:w-auto max-md:flex-1">{name}</span>
              <span className="min-w-0 flex-1 text-ink-2 max-md:order-last max-md:basis-full">
                since {text(created)}
                {used === null ? "; not used yet" : `; used last ${text(used)}`}
              </span>
              <button
                type="button"
                disabled={isBusy}
                onClick={() =>
                  void during(write("DELETE", `/passkeys/${encodeURIComponent(id)}`), `${name} lets nobody in now.`)
                }
                className={BUTTON}
              >
                Remove
              </button>
            </li>
          ))}
        </ul>
      )}
      {here === "can" && (
        <button
          type="button"
          disabled={isBusy || !isProved}
          onClick={() => void during(makePasskey(agentText(navigator.userAgent)), "This device lets you in now.")}
          className={BUTTON}
        >
          Make one on this device
        </button>
      )}
      {here === "can" && !isProved && <span className="ml-2 text-ink-2">{FIRST_PROVE}</span>}
      {here === "by name" && (
        <p className="text-ink-2">
          Not at {location.hostname}: passkeys need a name. Open{" "}
          <a className="text-ink underline" href={byName()}>
            {new URL(byName()).host}
          </a>{" "}
          and make one there.
        </p>
      )}
      {here === "cannot" && <p className="text-ink-2">This browser has none.</p>}
    </section>
  );
}
