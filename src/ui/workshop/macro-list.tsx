"use client";
import { useState } from "react";
import type { MacroShape } from "@/core/api";
import { checkMacro, stepsText, type PlanContext } from "@/core/macro";
import { findNames } from "@/core/place";
import { useKeyLabels } from "../input/layout";
import { TONE } from "../parts/tone";
import { ageText } from "../parts/words";
import { useNow } from "../parts/now";
import { useView } from "../state/store";
import { placeMacro } from "./edit";
import { boundAt, keysText } from "./where-bound";

interface Props {
  readonly chosen: number | null;
  readonly context: PlanContext;
  readonly onChoose: (macro: number) => void;
}

/** All macros: where each is bound, how often it is used, whether it can run. Alt and an arrow moves one. */
export function MacroList({ chosen, context, onChoose }: Props) {
  const macros = useView((v) => v.macros);
  const decks = useView((v) => v.decks);
  const labelOf = useKeyLabels();
  const nowMs = useNow(60_000);
  const [search, setSearch] = useState("");
  const found = findNames(macros, (m) => `${m.name} ${stepsText(m.steps)}`, search);

  const whereText = (macro: MacroShape): string => {
    const [first, ...more] = boundAt(decks, macro.id);
    if (!first) return "–";
    const deck = first.deck.number === 1 ? "" : `${first.deck.number} `;
    return `${deck}${keysText(first.keys, labelOf)}${more.length > 0 ? ` +${more.length}` : ""}`;
  };
  const usesText = (macro: MacroShape): string => {
    if (macro.uses === 0 || macro.usedAt === null) return "not used yet";
    const times = macro.uses === 1 ? "once" : `${macro.uses} times`;
    const ago = nowMs - Date.parse(macro.usedAt);
    return `${times}, ${ago < 60_000 ? "just now" : `${ageText(ago)} ago`}`;
  };
  const move = (macro: MacroShape, by: 1 | -1) => {
    const from = macros.indexOf(macro);
    const to = from + by;
    if (to < 0 || to >= macros.length) return;
    void placeMacro(macro, from, to);
  };
  return (
    <section aria-label="Macros" className="flex min-h-0 flex-col border-r border-rule max-lg:max-h-60">
      <input
        aria-label="Search macros"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
        placeholder="Search macros"
        className="border-b border-rule bg-sheet px-3.5 py-2 text-[13px]"
      />
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {found.map((m) => {
          const stopped = checkMacro(m, context).some((finding) => finding.severity === "stops");
          return (
            <li key={m.id}>
              <button
                type="button"
                data-listed={m.name}
                aria-current={m.id === chosen ? "true" : undefined}
                onClick={() => onChoose(m.id)}
                onKeyDown={(event) => {
                  if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
                  event.preventDefault();
                  move(m, event.key === "ArrowUp" ? -1 : 1);
                }}
                className={`grid w-full grid-cols-[12px_minmax(0,1fr)_auto] items-center gap-x-2 px-3.5 py-1 text-left text-[13px] ${m.id === chosen ? "bg-sheet font-bold" : ""}`}
              >
                <span aria-hidden className={`h-3 w-3 rounded-[2px] ${TONE[m.colour]}`} />
                <span className="truncate">{m.name}</span>
                <span className="num text-xs font-normal text-ink-2">{whereText(m)}</span>
                <span className="col-span-2 col-start-2 truncate text-[11px] font-normal text-ink-3">
                  {stopped ? <b className="text-brick">cannot run</b> : usesText(m)}
                </span>
              </button>
            </li>
          );
        })}
        {found.length === 0 && (
          <li className="px-3.5 py-2 text-[13px] text-ink-2">No macro has that in its name or steps.</li>
        )}
      </ul>
    </section>
  );
}
