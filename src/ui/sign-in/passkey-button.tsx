import { useState } from "react";
import { byName, passkeysHere, signInByPasskey } from "./passkey";
import { BUTTON } from "./sessions";

/** Signs in with a passkey that the device has. */
export function PasskeyButton({ onIn }: { readonly onIn: () => void }) {
  const [said, setSaid] = useState<string | null>(null);
  const here = passkeysHere();
  if (here === "cannot") return null;
  if (here === "by name")
    return (
      <p className="text-xs text-ink-2">
        A passkey works at{" "}
        <a className="underline" href={byName()}>
          {new URL(byName()).host}
        </a>
        .
      </p>
    );
  const come = () => signInByPasskey().then(onIn, (error: Error) => setSaid(error.message));
  return (
    <>
      <button type="button" onClick={() => void come()} className={`${BUTTON} justify-self-start py-1.5`}>
        Sign in with a passkey
      </button>
      {said !== null && (
        <p role="alert" className="rounded-sm bg-brick-soft px-2.5 py-1.5 text-[13px]">
          {said}
        </p>
      )}
    </>
  );
}
