"use client";
import { useQueries } from "@tanstack/react-query";
import type { Block, Doc } from "@/core/letter";
import { Picker } from "../parts/picker";
import { weekdayTimeText } from "../parts/words";
import { offersOf } from "../state/reads";
import { useView } from "../state/store";

interface Props {
  readonly onTake: (times: Doc) => void;
  readonly onClose: () => void;
}

/** How long what is offered may take. */
const LENGTHS = [
  [30, "Half an hour"],
  [60, "An hour"],
  [90, "An hour and a half"],
  [120, "Two hours"],
  [240, "Half a day"],
] as const;

/** The times as a list of a letter. */
const docOf = (texts: readonly string[]): Doc => ({
  type: "doc",
  content: [
    {
      type: "bullet_list",
      content: texts.map((text) => ({
        type: "list_item",
        content: [{ type: "paragraph", content: [{ type: "text", text }] } satisfies Block],
      })),
    },
  ],
});

/** Puts three free times of one's calendar into a letter. */
export function OfferPicker({ onTake, onClose }: Props) {
  const read = useQueries({ queries: LENGTHS.map(([minutes]) => offersOf(minutes)) });
  const failed = read.find(({ error }) => error !== null)?.error;
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const offered = (at: number) => read[at]?.data ?? [];
  const detailOf = (at: number): string => {
    if (read[at]?.data === undefined) return "…";
    return offered(at).length === 0
      ? "nothing that long is free in the next weeks"
      : offered(at)
          .map(({ start }) => weekdayTimeText(start, zone))
          .join(" · ");
  };
  return (
    <Picker
      title="Offer three times of"
      choices={LENGTHS.map(([minutes, name], at) => ({
        id: String(minutes),
        name,
        detail: detailOf(at),
        first: true,
      }))}
      onChoose={(id) => {
        const chosen = offered(LENGTHS.findIndex(([minutes]) => String(minutes) === id));
        if (chosen.length > 0) onTake(docOf(chosen.map(({ text }) => text)));
      }}
      onClose={onClose}
      problem={failed ? failed.message : null}
    />
  );
}
