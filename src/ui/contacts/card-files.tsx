"use client";
import { useRef, useState } from "react";
import type { CardsAnswer } from "@/core/api";
import { plural } from "../parts/words";
import { cardsAddress, uploadCards } from "../state/api";
import { inLine } from "../state/writes";
import { notify } from "../state/store";
import { BUTTON, lookAgain } from "./change";

function saidOf({ kept, changed, same, groups }: CardsAnswer): string {
  const parts = [
    `${plural(kept, "contact")} kept`,
    ...(changed > 0 ? [`${changed} changed`] : []),
    ...(same > 0 ? [`${same} here already`] : []),
    ...(groups > 0 ? [`${plural(groups, "group")} changed`] : []),
  ];
  return `${parts.join(", ")}.${kept + changed > 0 ? " U takes the contacts back." : ""}`;
}

/** Contacts as files of cards: taken in, and saved. */
export function CardFiles() {
  const file = useRef<HTMLInputElement>(null);
  const [left, setLeft] = useState<CardsAnswer | null>(null);
  const take = async (chosen: File | undefined) => {
    if (!chosen) return;
    setLeft(null);
    try {
      const answer = await inLine(() => uploadCards(chosen));
      await lookAgain();
      notify(saidOf(answer));
      if (answer.leftCount > 0) setLeft(answer);
    } catch (error) {
      notify(error instanceof Error ? error.message : "The file could not be read.", "trouble");
    }
  };
  return (
    <span className="flex flex-wrap items-center gap-2 text-[13px]">
      <input
        ref={file}
        type="file"
        accept=".vcf,.vcard,text/vcard"
        aria-label="File of cards to take in"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          void take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <button type="button" className={BUTTON} onClick={() => file.current?.click()}>
        Take in a card file…
      </button>
      <span>
        Save all as vCard{" "}
        {([4, 3] as const).map((version) => (
          <a key={version} href={cardsAddress(version)} download className="mr-1.5 underline">
            {version}.0
          </a>
        ))}
      </span>
      {left && (
        <span role="alert" className="flex items-start gap-2 rounded-sm bg-amber-soft px-2 py-1">
          <span>
            {plural(left.leftCount, "card")} left out:{" "}
            {left.left
              .slice(0, 3)
              .map(({ name, why }) => `${name || "no name"} (${why})`)
              .join("; ")}
            {left.leftCount > 3 && " …"}
          </span>
          <button type="button" aria-label="Close" onClick={() => setLeft(null)}>
            ×
          </button>
        </span>
      )}
    </span>
  );
}
