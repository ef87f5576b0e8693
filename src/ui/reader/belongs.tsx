"use client";
import { useEffect } from "react";
import type { MacroShape } from "@/core/api";
import { isGuessed } from "@/core/macro";
import { useKeyLabels } from "../input/layout";
import { guessesOf, junkOf, wantGuess } from "../state/guesses";
import { runMacro, runSteps } from "../state/run";
import { mailbox, useView } from "../state/store";

/** Places from which mail is filed; elsewhere it is where it belongs, or not to be filed at all. */
const FROM: readonly (string | null)[] = ["inbox", "archive", "junk"];
const MOST = 3;

/** Which guess a macro files by; null for one that does not. */
export function guessOfMacro({ steps }: Pick<MacroShape, "steps">): number | null {
  for (const step of steps) if (step.do === "move" && isGuessed(step.to)) return step.to.nth ?? 1;
  return null;
}

/** Less is not worth a word: what is wanted is not to be made suspect. */
const LIKELY = 50;

/** That a message is probably junk, or in the junk folder probably is none, with what speaks for it. A word only: nothing is done by it. */
function LikelyJunk({ id, isJunk }: { readonly id: number; readonly isJunk: boolean }) {
  const junk = junkOf(id);
  if (!junk || junk.percent >= LIKELY === isJunk) return null;
  return (
    <p data-testid="likely-junk" className="mt-5 border-t border-rule pt-3 text-[13px] print:hidden">
      <b>{isJunk ? `Probably no junk: ${100 - junk.percent} %` : `Probably junk: ${junk.percent} %`}</b>
      {junk.why.length > 0 && <span className="text-ink-2"> {junk.why.join("; ")}</span>}
    </p>
  );
}

/** The three places a message most probably belongs, with what speaks for each, and the key that files it there. */
export function Belongs({ id }: { readonly id: number }) {
  const directory = useView((v) => v.directory);
  const least = useView((v) => v.home?.settings.leastSure ?? 0);
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find(({ number }) => number === v.deck));
  const labelOf = useKeyLabels();
  const learned = useView((v) => v.learned);
  useView((v) => v.guessed);
  useEffect(() => {
    void learned;
    wantGuess(id);
  }, [id, learned]);
  const row = mailbox.rowOf(id);
  const here = directory.folders.find((folder) => row !== undefined && folder.id === mailbox.columns.folder[row]);
  const guesses = (guessesOf(id) ?? []).slice(0, MOST);
  if (!here || !FROM.includes(here.role)) return null;
  const likely = <LikelyJunk id={id} isJunk={here.role === "junk"} />;
  if (guesses.length === 0) return likely;
  const isSure = guesses[0]!.percent >= least;
  const padFor = (nth: number) => {
    const pad = deck?.pads.find((one) => {
      const macro = macros.find((m) => m.id === one.macro);
      return !one.off && macro !== undefined && guessOfMacro(macro) === nth;
    });
    const macro = macros.find((m) => m.id === pad?.macro);
    return pad && macro ? { macro, keys: `${pad.layer === "shift" ? "⇧" : ""}${labelOf(pad.code)}` } : null;
  };
  return (
    <>
      {likely}
      <section aria-label="Where this belongs" className="mt-5 border-t border-rule pt-3 text-[13.5px] print:hidden">
        <h2 className="mb-1.5 text-xs font-bold">
          Where this belongs
          {!isSure && <span className="font-normal text-ink-2">: not sure enough to file it without asking</span>}
        </h2>
        <ol>
          {guesses.map(({ folder, percent, why }, i) => {
            const path = directory.folders.find((one) => (one.id as number) === folder)?.path;
            const pad = padFor(i + 1);
            if (path === undefined) return null;
            const file = () =>
              pad && (i > 0 || isSure)
                ? runMacro(pad.macro, { ids: [id] })
                : runSteps("File to", [{ do: "move", to: path }, { do: "read" }], [id]);
            return (
              <li key={folder} className="mb-1.5">
                <button
                  type="button"
                  onClick={file}
                  title={`File it to ${path}`}
                  className="grid w-full grid-cols-[34px_minmax(0,1fr)_minmax(40px,140px)_28px] items-center gap-x-2 text-left"
                >
                  <span>{pad && <kbd>{pad.keys}</kbd>}</span>
                  <span className="truncate">{path}</span>
                  <span aria-hidden className="h-1.5 bg-rule">
                    <span className="block h-1.5 bg-spruce" style={{ width: `${percent}%` }} />
                  </span>
                  <span className="num text-right">
                    {percent}
                    <span className="sr-only"> percent</span>
                  </span>
                </button>
                {why.length > 0 && <p className="pl-[42px] text-xs text-ink-2">{why.join("; ")}</p>}
              </li>
            );
          })}
        </ol>
      </section>
    </>
  );
}
