"use client";
import { useState, type DragEvent } from "react";
import { FRAME_ACTIONS, isPadCode, swapPads, bindPad, type Deck, type Layer, type PadCode } from "@/core/keys";
import type { MacroShape } from "@/core/api";
import { useFrame } from "../input/frame";
import { useKeyLabels } from "../input/layout";
import { TONE } from "../parts/tone";
import { useView } from "../state/store";
import { changeDeck } from "./edit";

/** A keyboard's rows by physical position, with how far each is set in. */
const ROWS: readonly (readonly [inset: number, codes: readonly string[]])[] = [
  [
    0,
    [
      "Digit1",
      "Digit2",
      "Digit3",
      "Digit4",
      "Digit5",
      "Digit6",
      "Digit7",
      "Digit8",
      "Digit9",
      "Digit0",
      "Minus",
      "Equal",
      "Backspace",
    ],
  ],
  [
    18,
    [
      "KeyQ",
      "KeyW",
      "KeyE",
      "KeyR",
      "KeyT",
      "KeyY",
      "KeyU",
      "KeyI",
      "KeyO",
      "KeyP",
      "BracketLeft",
      "BracketRight",
      "Backslash",
    ],
  ],
  [34, ["KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ", "KeyK", "KeyL", "Semicolon", "Quote", "Enter"]],
  [56, ["KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM", "Comma", "Period", "Slash", "Space", "Escape"]],
];

/** Frame actions in as many words as fit on a key. */
const SHORT: Partial<Record<keyof typeof FRAME_ACTIONS, string>> = {
  next: "down",
  previous: "up",
  extendNext: "extend down",
  extendPrevious: "extend up",
  tick: "tick",
  open: "open",
  back: "back",
  escape: "clear",
  nextInThread: "thread on",
  previousInThread: "thread back",
  read: "read on",
  readBack: "read back",
  narrow: "narrow",
  widen: "widen",
  goTo: "go to",
  runByName: "by name",
  again: "again",
  foldDeck: "fold deck",
  order: "order",
  settle: "settle",
  keys: "all keys",
};

interface Props {
  readonly deck: Deck;
  readonly layer: Layer;
  readonly chosen: MacroShape | null;
  readonly onChoose: (macro: number) => void;
}

const BOX =
  "flex h-[47px] w-[74px] shrink-0 flex-col overflow-hidden rounded-sm border px-1 py-0.5 text-left text-[11px] leading-[1.15]";

/**
 * The whole keyboard with what each key does. A pad opens its macro, an empty one takes the chosen macro;
 * dragging swaps two pads, with Ctrl it copies.
 */
export function KeyMap({ deck, layer, chosen, onChoose }: Props) {
  const macros = useView((v) => v.macros);
  const decks = useView((v) => v.decks);
  const labelOf = useKeyLabels();
  const frame = useFrame();
  const [over, setOver] = useState<PadCode | null>(null);
  const written = (code: string) => (layer === "shift" ? `Shift+${code}` : code);

  const otherText = (code: string): string => {
    const extra = deck.extra.find((e) => e.keys === written(code));
    if (extra) return macros.find((m) => m.id === extra.macro)?.name ?? "";
    const action = frame.find(([keys]) => keys === written(code))?.[1];
    if (action) return SHORT[action] ?? FRAME_ACTIONS[action];
    const digit = /^Digit([1-9])$/.exec(code)?.[1];
    if (!digit || layer === "shift") return "";
    return decks.find((d) => d.number === Number(digit))?.name ?? `deck ${digit}`;
  };
  const onDrop = (event: DragEvent, to: PadCode) => {
    setOver(null);
    const from = event.dataTransfer.getData("text/pad");
    if (!isPadCode(from) || from === to) return;
    const moved = deck.pads.find((pad) => pad.layer === layer && pad.code === from);
    if (event.ctrlKey && moved)
      return void changeDeck(
        deck,
        bindPad(deck, { layer, code: to, macro: moved.macro }, false),
        `Copied ${labelOf(from)} to ${labelOf(to)}`,
      );
    void changeDeck(
      deck,
      swapPads(deck, { layer, code: from }, { layer, code: to }),
      `Swapped ${labelOf(from)} and ${labelOf(to)}`,
    );
  };
  const press = (code: PadCode, macro: MacroShape | undefined) => {
    if (macro) return onChoose(macro.id);
    if (chosen)
      void changeDeck(
        deck,
        bindPad(deck, { layer, code, macro: chosen.id }, false),
        `${chosen.name} is on ${labelOf(code)}`,
      );
  };
  return (
    <div className="overflow-x-auto p-0.5" role="group" aria-label="Keyboard">
      {ROWS.map(([inset, codes]) => (
        <div key={inset} className="mb-1 flex gap-1" style={{ marginLeft: inset }}>
          {codes.map((code) => {
            if (!isPadCode(code))
              return (
                <div key={code} className={`${BOX} border-rule text-ink-3`}>
                  <b className="truncate font-mono text-[11px]">{labelOf(code)}</b>
                  <span className="truncate">{otherText(code)}</span>
                </div>
              );
            const pad = deck.pads.find((p) => p.layer === layer && p.code === code);
            const macro = macros.find((m) => m.id === pad?.macro);
            const says = macro ? `${macro.name}${pad?.off ? ", off" : ""}` : "nothing";
            return (
              <button
                key={code}
                type="button"
                draggable={Boolean(macro)}
                data-pad={code}
                onDragStart={(event) => event.dataTransfer.setData("text/pad", code)}
                onDragOver={(event) => (event.preventDefault(), setOver(code))}
                onDragLeave={() => setOver(null)}
                onDrop={(event) => onDrop(event, code)}
                onClick={() => press(code, macro)}
                title={macro ? says : chosen ? `Put ${chosen.name} here` : undefined}
                aria-label={`${labelOf(code)}: ${says}`}
                aria-pressed={macro !== undefined && macro.id === chosen?.id}
                className={`${BOX} ${over === code ? "border-ink bg-spruce-soft" : "border-rule bg-sheet"} ${macro && macro.id === chosen?.id ? "outline-2 outline-offset-1 outline-ink" : ""}`}
              >
                <span className="flex items-center gap-1">
                  <b
                    className={`rounded-[2px] px-1 font-mono text-xs ${macro && !pad?.off ? TONE[macro.colour] : "text-ink-3"}`}
                  >
                    {labelOf(code)}
                  </b>
                  {pad?.off && <span className="text-ink-3">off</span>}
                </span>
                <span className={`line-clamp-2 ${pad?.off ? "text-ink-3 line-through" : ""}`}>{macro?.name}</span>
              </button>
            );
          })}
        </div>
      ))}
    </div>
  );
}
