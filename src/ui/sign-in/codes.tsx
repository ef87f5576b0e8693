import { useState } from "react";
import { renderSVG } from "uqr";
import type { CodeSecretShape, SignedInShape } from "@/core/api";
import { write } from "../state/api";
import { notify } from "../state/store";
import { Sends } from "./form";
import { Labelled } from "./labelled";
import { FIRST_PROVE } from "./prove";
import { BUTTON } from "./sessions";

interface CodesProps {
  readonly codes: SignedInShape["codes"];
  readonly hasPassword: boolean;
  /** Whether they may be turned on. */
  readonly isProved: boolean;
  readonly onDone: () => void;
}

const inGroups = (secret: string): string => secret.match(/.{1,4}/g)!.join(" ");
const picture = (uri: string): string => `data:image/svg+xml;utf8,${encodeURIComponent(renderSVG(uri, { border: 2 }))}`;

/** Codes on paper, to be written down now: they are shown only once. */
function Paper({ codes, onDone }: { readonly codes: readonly string[]; readonly onDone: () => void }) {
  return (
    <div role="group" aria-label="Codes on paper" className="grid max-w-[400px] gap-2 bg-sheet p-3">
      <p>
        Write these down, or print this page. Each lets you in once when the app that makes codes is lost. They are not
        shown again.
      </p>
      <ol className="grid grid-cols-2 gap-x-4 gap-y-0.5 font-mono">
        {codes.map((code) => (
          <li key={code}>{code}</li>
        ))}
      </ol>
      <button type="button" onClick={onDone} className={`${BUTTON} justify-self-start`}>
        I have them
      </button>
    </div>
  );
}

/** What is asked for beside the password: codes of an app, and those on paper. */
export function Codes({ codes, hasPassword, isProved, onDone }: CodesProps) {
  const [secret, setSecret] = useState<CodeSecretShape | null>(null);
  const [paper, setPaper] = useState<readonly string[] | null>(null);
  const [code, setCode] = useState("");
  const begin = () =>
    write<CodeSecretShape>("POST", "/codes").then(setSecret, (error: Error) => {
      notify(error.message, "trouble");
      onDone();
    });
  const withCode = async (what: "confirm" | "paper" | "end") => {
    const answer = await write<{ codes: string[] } | undefined>("POST", `/codes/${what}`, { code });
    setCode("");
    setSecret(null);
    setPaper(answer?.codes ?? null);
    notify(
      { confirm: "Codes are asked for from now on.", paper: "Those before are void.", end: "No codes are asked for." }[
        what
      ],
    );
    onDone();
  };
  const field = <Labelled label="The code it shows" value={code} onChange={setCode} fills="one-time-code" />;
  return (
    <section aria-labelledby="codes" className="border-b border-rule px-3.5 py-3">
      <h2 id="codes" className="pb-1.5 font-bold">
        Codes beside the password
      </h2>
      {paper !== null && <Paper codes={paper} onDone={() => setPaper(null)} />}
      {paper === null && !codes.areOn && secret === null && (
        <>
          <p className="max-w-[60ch] pb-2 text-ink-2">
            An app on your phone makes a code of six digits every half a minute. With the password alone nobody comes
            in.
          </p>
          <button type="button" disabled={!hasPassword || !isProved} onClick={() => void begin()} className={BUTTON}>
            Ask for codes
          </button>
          {!hasPassword && <span className="ml-2 text-ink-2">Set a password first.</span>}
          {hasPassword && !isProved && <span className="ml-2 text-ink-2">{FIRST_PROVE}</span>}
        </>
      )}
      {secret !== null && (
        <div className="flex flex-wrap gap-4">
          {/* Cameras read dark on light, by night too. */}
          <div
            role="img"
            aria-label="The secret as a picture for your app"
            style={{ backgroundImage: `url("${picture(secret.uri)}")` }}
            className="size-[168px] bg-contain"
          />
          <div className="w-[320px] max-w-full">
            <p className="pb-1.5">Show this to the app that makes codes, or type it there:</p>
            <p className="pb-2.5 font-mono break-words" data-testid="code-secret">
              {inGroups(secret.secret)}
            </p>
            <Sends label="A first code" button="Turn on" isReady={code !== ""} send={() => withCode("confirm")}>
              {field}
            </Sends>
          </div>
        </div>
      )}
      {codes.areOn && paper === null && (
        <div className="max-w-[372px] max-md:max-w-none">
          <p className="pb-2 text-ink-2">
            They are asked for.{" "}
            {codes.paper === 0 ? "No code on paper is left." : `${codes.paper} codes on paper are left.`} With a code
            you get new ones for paper, or turn codes off.
          </p>
          <Sends
            label="Codes on paper"
            button="New codes on paper"
            isReady={code !== ""}
            send={() => withCode("paper")}
          >
            {field}
          </Sends>
          <button
            type="button"
            disabled={code === ""}
            onClick={() => void withCode("end").catch((error: Error) => notify(error.message, "trouble"))}
            className={`${BUTTON} mt-2`}
          >
            Turn codes off
          </button>
        </div>
      )}
    </section>
  );
}
