"use client";
import { useEffect, useState } from "react";
import { sizeText } from "../parts/words";
import { countTexts, endAnswers } from "../state/kept-answers";
import { endKeeping } from "../state/keep-up";
import { notify } from "../state/store";

interface Here {
  readonly texts: number;
  /** Of the app's pages and of mail, as far as the browser tells. */
  readonly bytes: number | null;
}

async function lookHere(): Promise<Here> {
  const { usage } = await navigator.storage.estimate().catch(() => ({ usage: undefined }));
  return { texts: await countTexts(), bytes: usage ?? null };
}

/** What this browser keeps for when there is no connection, and emptying it. */
export function KeptHere() {
  const [here, setHere] = useState<Here | null>(null);
  useEffect(() => void lookHere().then(setHere), []);
  const empty = async () => {
    await Promise.all([endAnswers(), endKeeping()]);
    setHere(await lookHere());
    notify("This browser keeps no mail now. It begins anew with the next visit; decisions that wait stay.");
  };
  return (
    <section aria-labelledby="kept-title" className="grid justify-items-start gap-1.5 text-[13px]">
      <h2 id="kept-title" className="text-[13px] font-bold">
        Kept in this browser
      </h2>
      <p data-testid="kept-here">
        {here === null
          ? "Looking…"
          : `The list of your mail and the texts of ${here.texts} messages${here.bytes === null ? "" : `, ${sizeText(here.bytes)} with the app`}.`}
      </p>
      <p className="max-w-[60ch] text-ink-2">
        So that the app opens without a connection, with the next messages of the inbox. At most a thousand texts are
        kept. On a machine that others use, empty it when you leave.
      </p>
      <button
        type="button"
        className="rounded-sm border border-edge bg-sheet px-2 py-0.5 text-[13px]"
        onClick={() => void empty()}
      >
        Empty it
      </button>
    </section>
  );
}
