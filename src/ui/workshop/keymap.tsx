"use client";
import { useState, type DragEvent } from "react";
import { FRAME_ACTIONS, FRAME_KEYS, isPadCode, swapPads, type Deck, type Layer, type PadCode } from "@/core/keys";
import { useKeyLabels } from "../input/layout";
import { TONE } from "../parts/tone";
import { useView } from "../state/store";
import { changeDeck } from "./edit";

/** The letter rows of a keyboard by physical position, with how far each is set in. */
const ROWS: readonly (readonly [inset: number, codes: readonly string[]])[] = [
  [0, ["KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY", "KeyU", "KeyI", "KeyO", "KeyP"]],
  [16, ["KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ", "KeyK", "KeyL", "Semicolon"]],
  [40, ["KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM", "Comma", "Period", "Slash"]],
];

const frameName = (code: string): string => {
  const action = FRAME_KEYS.find(([keys]) => keys === code)?.[1];
  return action ? FRAME_ACTIONS[action] : "";
};

interface Props {
  readonly deck: Deck;
  readonly layer: Layer;
  readonly chosen: number | null;
  readonly onChoose: (macro: number) => void;
}

/** The keyboard with what each key runs. Pads are chosen by a click and exchanged by dragging. */
export function KeyMap({ deck, layer, chosen, onChoose }: Props) {
  const macros = useView((v) => v.macros);
  const labelOf = useKeyLabels();
  const [over, setOver] = useState<PadCode | null>(null);
  const onDrop = (event: DragEvent, to: PadCode) => {
    setOver(null);
    const from = event.dataTransfer.getData("text/pad");
    if (!isPadCode(from) || from === to) return;
    void changeDeck(
      deck,
      swapPads(deck, { layer, code: from }, { layer, code: to }),
      `Swapped ${labelOf(from)} and ${labelOf(to)}`,
    );
  };
  return (
    <div className="overflow-x-auto p-1" role="group" aria-label="Keyboard">
      {ROWS.map(([inset, codes]) => (
        <div key={inset} className="mb-1 flex gap-1" style={{ marginLeft: inset }}>
          {codes.map((code) => {
            const pad = isPadCode(code) ? deck.pads.find((p) => p.layer === layer && p.code === code) : undefined;
            const macro = macros.find((m) => m.id === pad?.macro);
            const box =
              "flex h-[54px] w-[76px] shrink-0 flex-col overflow-hidden rounded-sm border px-1.5 py-1 text-left text-[11px] leading-tight";
            if (!isPadCode(code))
              return (
                <div key={code} className={`${box} border-rule text-ink-3`}>
                  <b className="font-mono text-xs">{labelOf(code)}</b>
                  <span className="truncate">{layer === "plain" ? frameName(code) : ""}</span>
                </div>
              );
            return (
              <button
                key={code}
                type="button"
                disabled={!macro}
                draggable={Boolean(macro)}
                data-pad={code}
                onDragStart={(event) => event.dataTransfer.setData("text/pad", code)}
                onDragOver={(event) => (event.preventDefault(), setOver(code))}
                onDragLeave={() => setOver(null)}
                onDrop={(event) => onDrop(event, code)}
                onClick={() => macro && onChoose(macro.id)}
                aria-label={macro ? `${labelOf(code)}: ${macro.name}` : `${labelOf(code)}: nothing`}
                aria-pressed={macro !== undefined && macro.id === chosen}
                className={`${box} ${over === code ? "border-ink bg-spruce-soft" : "border-rule bg-sheet"} ${macro && macro.id === chosen ? "outline-2 outline-offset-1 outline-ink" : ""}`}
              >
                <b
                  className={`w-fit rounded-[2px] px-1 font-mono text-xs ${macro ? TONE[macro.colour] : "text-ink-3"}`}
                >
                  {labelOf(code)}
                </b>
                <span className="mt-0.5 line-clamp-2">{macro?.name}</span>
              </button>
            );
          })}
        </div>
      ))}
    </div>
  );
}
