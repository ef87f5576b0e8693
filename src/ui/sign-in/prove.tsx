import { useState } from "react";
import { write } from "../state/api";
import { notify } from "../state/store";
import { Sends } from "./form";
import { Labelled } from "./labelled";
import { byName, passkeysHere, proveByPasskey } from "./passkey";
import { BUTTON } from "./sessions";

interface ProveProps {
  readonly hasPassword: boolean;
  readonly hasPasskey: boolean;
  readonly onDone: () => void;
}

/** What stands where something is made that lets in, until it is shown. */
export const FIRST_PROVE = "Show first that it is you, further up.";

/** Asks once more who sits here: a window that was left open lets nobody make a way in of their own. */
export function Prove({ hasPassword, hasPasskey, onDone }: ProveProps) {
  const [password, setPassword] = useState("");
  const here = passkeysHere();
  const done = () => {
    notify("It is you: for ten minutes you can make what lets you in.");
    onDone();
  };
  const send = async () => {
    await write("POST", "/sessions/proof", { password });
    setPassword("");
    done();
  };
  const sign = () => proveByPasskey().then(done, (error: Error) => notify(error.message, "trouble"));
  return (
    <section aria-labelledby="prove" className="border-b border-rule bg-spruce-soft px-3.5 py-3">
      <h2 id="prove" className="pb-1.5 font-bold">
        Is it still you?
      </h2>
      <p className="max-w-[60ch] pb-2">
        Before a passkey, codes or a token is made, say once more who you are. Whoever finds this window open cannot
        make a way in of their own.
      </p>
      <div className="grid max-w-[372px] gap-3 max-md:max-w-none">
        {hasPassword && (
          <Sends label="Is it still you?" button="It is me" isReady={password !== ""} send={send}>
            <Labelled
              label="Your password"
              type="password"
              value={password}
              onChange={setPassword}
              fills="current-password"
            />
          </Sends>
        )}
        {hasPasskey && here === "by name" && (
          <p>
            A passkey shows it at{" "}
            <a className="underline" href={byName()}>
              {new URL(byName()).host}
            </a>
            , not here.
          </p>
        )}
        {hasPasskey && !hasPassword && here === "cannot" && (
          <p>This browser has no passkeys. Use one that has yours.</p>
        )}
        {hasPasskey && here === "can" && (
          <button type="button" onClick={() => void sign()} className={`${BUTTON} justify-self-start py-1.5`}>
            Show it with a passkey
          </button>
        )}
      </div>
    </section>
  );
}
