import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Scope, TokenShape } from "@/core/api";
import { dateText } from "../parts/words";
import { write } from "../state/api";
import { reads, tokens as tokensRead } from "../state/reads";
import { notify, useView } from "../state/store";
import { Sends } from "./form";
import { Labelled } from "./labelled";
import { FIRST_PROVE } from "./prove";
import { BUTTON } from "./sessions";
import { ShownOnce } from "./shown-once";

const MAY: readonly (readonly [Scope, string])[] = [
  ["read", "read all mail"],
  ["decide", "decide about it: what undo takes back"],
  ["send", "send, and make macros and rules that may"],
];
const LASTS = [
  ["30", "30 days"],
  ["365", "a year"],
  ["", "until it is ended"],
] as const;

function Row({ token }: { readonly token: TokenShape }) {
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const text = (at: number) => dateText(new Date(at).toISOString(), zone, new Date());
  const end = () =>
    write("DELETE", `/tokens/${token.id}`)
      .then(
        () => notify(`${token.name} lets nothing in now.`),
        (error: Error) => notify(`Not done: ${error.message}`, "trouble"),
      )
      .finally(() => void reads.invalidateQueries(tokensRead));
  return (
    <li className="flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-rule-soft py-1.5">
      <span className="w-64 max-w-full truncate font-semibold max-md:w-auto max-md:flex-1">{token.name}</span>
      <span className="min-w-0 flex-1 text-ink-2 max-md:order-last max-md:basis-full">
        may {token.scopes.join(", ")}; {token.used === null ? "not used yet" : `used last ${text(token.used)}`}
        {token.ends === null ? "" : `; ends ${text(token.ends)}`}
      </span>
      <button type="button" onClick={() => void end()} className={BUTTON}>
        End
      </button>
    </li>
  );
}

interface TokensProps {
  /** Whether a new one may be made. */
  readonly isProved: boolean;
  readonly onDone: () => void;
}

/** Tokens with which programs act for somebody: the command line, and what they write themselves. */
export function Tokens({ isProved, onDone }: TokensProps) {
  const { data = [] } = useQuery(tokensRead);
  const [made, setMade] = useState<string | null>(null);
  const [name, setName] = useState("");
  const [scopes, setScopes] = useState<readonly Scope[]>(["read"]);
  const [days, setDays] = useState<string>(LASTS[0][0]);
  const send = async () => {
    const asked = { name: name.trim(), scopes, days: days === "" ? null : Number(days) };
    setMade((await write<{ token: string }>("POST", "/tokens", asked).finally(onDone)).token);
    setName((typed) => (typed.trim() === asked.name ? "" : typed));
    await reads.invalidateQueries(tokensRead);
  };
  return (
    <section aria-labelledby="tokens" className="border-b border-rule px-3.5 py-3">
      <h2 id="tokens" className="pb-1.5 font-bold">
        Tokens for programs
      </h2>
      {data.length > 0 && (
        <ul aria-label="Tokens" className="pb-2">
          {data.map((token) => (
            <Row key={token.id} token={token} />
          ))}
        </ul>
      )}
      {made !== null && (
        <div className="mb-3 flex flex-wrap items-center gap-2 bg-spruce-soft px-2.5 py-2">
          <span className="basis-full">Take it along now: it is not shown again.</span>
          <ShownOnce label="The token" value={made} copied="Copied." />
        </div>
      )}
      <div className="max-w-[372px] max-md:max-w-none">
        <Sends
          label="A token"
          button="Make a token"
          isReady={isProved && name.trim() !== "" && scopes.length > 0}
          send={send}
        >
          <Labelled label="What is it for?" value={name} onChange={setName} />
          <fieldset className="grid gap-1">
            <legend className="pb-1 font-semibold">It may</legend>
            {MAY.map(([scope, says]) => (
              <label key={scope} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  checked={scopes.includes(scope)}
                  onChange={({ target }) =>
                    setScopes(
                      MAY.map(([one]) => one).filter((one) => (one === scope ? target.checked : scopes.includes(one))),
                    )
                  }
                />
                {says}
              </label>
            ))}
          </fieldset>
          <label className="flex items-center gap-2">
            <span className="font-semibold">for</span>
            <select
              value={days}
              onChange={({ target }) => setDays(target.value)}
              className="rounded-sm border border-edge bg-sheet px-2 py-1"
            >
              {LASTS.map(([value, says]) => (
                <option key={value} value={value}>
                  {says}
                </option>
              ))}
            </select>
          </label>
        </Sends>
        {!isProved && <p className="pt-1.5 text-ink-2">{FIRST_PROVE}</p>}
      </div>
    </section>
  );
}
