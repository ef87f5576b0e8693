import { useEffect, useRef, useState } from "react";
import type { SieveTaken } from "@/core/api";
import { Modal } from "../parts/picker";
import { plural } from "../parts/words";
import { write } from "../state/api";
import { reads, rules } from "../state/reads";
import { refreshSettings } from "../state/settings";
import { notify } from "../state/store";

const PAUSE_MS = 300;
const BUTTON = "rounded-sm border border-edge bg-sheet px-3 py-1.5 disabled:opacity-40";

/** What a script comes to: for which text it was asked, and what the server said. */
interface Looked {
  readonly script: string;
  readonly said: SieveTaken | string;
}

const ask = (script: string, dry: boolean): Promise<SieveTaken | string> =>
  write<SieveTaken>("POST", "/rules/sieve", { script, dry }).catch((error: unknown) =>
    error instanceof Error ? error.message : "The server did not answer.",
  );

/** What a script would come to, asked once its writer pauses. */
function useLook(script: string): Looked | null {
  const [looked, setLooked] = useState<Looked | null>(null);
  useEffect(() => {
    if (script.trim() === "") return;
    let isOld = false;
    const timer = setTimeout(
      () => void ask(script, true).then((said) => !isOld && setLooked({ script, said })),
      PAUSE_MS,
    );
    return () => {
      isOld = true;
      clearTimeout(timer);
    };
  }, [script]);
  return looked?.script === script ? looked : null;
}

function WouldBe({ said }: { readonly said: SieveTaken }) {
  return (
    <>
      <ol aria-label="Rules of the script" className="grid gap-1">
        {said.rules.map(({ name, narrow, steps, stop, senders, near }, i) => (
          <li
            key={i}
            className="grid gap-x-3 border-t border-rule-soft pt-1 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]"
          >
            <span className="min-w-0">
              <b className="block truncate" title={name}>
                {name}
              </b>
              <span className="font-mono text-[12.5px] break-words">{narrow || (senders > 0 ? "" : "all mail")}</span>
              {senders > 0 && <span className="text-ink-2"> from a list of {plural(senders, "sender")}</span>}
            </span>
            <span className="min-w-0">
              {steps}
              {stop && <span className="text-ink-2"> · stop here</span>}
              {near.length > 0 && <span className="block text-xs text-ink-2">{near.join(" ")}</span>}
            </span>
          </li>
        ))}
      </ol>
      {said.left.length > 0 && (
        <section aria-label="What is left" className="rounded-sm bg-amber-soft px-3 py-2">
          <h3 className="font-bold">Not taken in, and kept in the remark of a rule</h3>
          <ul>
            {said.left.map(({ line, column, why }) => (
              <li key={`${line}.${column}.${why}`}>
                <span className="num">Line {line}:</span> {why}
              </li>
            ))}
          </ul>
        </section>
      )}
      {said.folders.length > 0 && (
        <p>
          <b>New folders:</b> {said.folders.join(", ")}
        </p>
      )}
      {said.labels.length > 0 && (
        <p>
          <b>New labels:</b> {said.labels.join(", ")}
        </p>
      )}
    </>
  );
}

/** A script is taken in as rules, after seeing what they would be. */
export function SieveIn({ onClose }: { readonly onClose: () => void }) {
  const file = useRef<HTMLInputElement>(null);
  const [script, setScript] = useState("");
  const [problem, setProblem] = useState<string | null>(null);
  const [isTaking, setTaking] = useState(false);
  const looked = useLook(script);
  const said = looked && typeof looked.said !== "string" ? looked.said : null;
  const wrong = problem ?? (looked && typeof looked.said === "string" ? looked.said : null);
  const change = (text: string) => {
    setScript(text);
    setProblem(null);
  };
  const take = async () => {
    setTaking(true);
    const done = await ask(script, false);
    setTaking(false);
    if (typeof done === "string") return setProblem(done);
    await refreshSettings();
    void reads.invalidateQueries({ queryKey: rules.queryKey });
    onClose();
    notify(`Took in ${plural(done.rules.length, "rule")}, switched off: look at each, and switch it on.`);
  };
  return (
    <Modal title="Take a script in" onClose={onClose} wide>
      <div className="flex max-h-[60vh] flex-col gap-2.5 overflow-y-auto p-4 pb-2 text-[13px]">
        <textarea
          autoFocus
          aria-label="The script"
          value={script}
          placeholder='require "fileinto"; …'
          spellCheck={false}
          onChange={({ target }) => change(target.value)}
          className="h-28 w-full md:h-44 shrink-0 resize-y rounded-sm border border-edge bg-sheet p-2 font-mono text-[12.5px]"
        />
        <input
          ref={file}
          type="file"
          accept=".sieve,.siv,.txt,text/plain,application/sieve"
          aria-label="A script to read"
          className="sr-only"
          tabIndex={-1}
          onChange={({ target }) => {
            void target.files?.[0]?.text().then(change);
            target.value = "";
          }}
        />
        {script.trim() === "" ? (
          <p className="text-ink-2">
            Paste a Sieve script (RFC 5228) of a mail server, or read it from a file. What it comes to stands here
            before anything is taken in.
          </p>
        ) : (
          !said && !wrong && <p role="status">Reading it…</p>
        )}
        {wrong && (
          <p role="alert" className="rounded-sm bg-brick-soft px-3 py-2">
            {wrong}
          </p>
        )}
        {said && <WouldBe said={said} />}
      </div>
      <div className="flex flex-wrap gap-2 px-4 pt-2 pb-4 text-[13px]">
        <button
          type="button"
          disabled={!said || said.rules.length === 0 || isTaking}
          onClick={() => void take()}
          className="rounded-sm bg-ink px-3 py-1.5 font-semibold text-paper disabled:opacity-40"
        >
          {said ? `Take in ${plural(said.rules.length, "rule")}` : "Take it in"}
        </button>
        <button type="button" onClick={() => file.current?.click()} className={BUTTON}>
          Read a file
        </button>
        <button type="button" onClick={onClose} className={BUTTON}>
          Leave everything as it is
        </button>
      </div>
    </Modal>
  );
}
