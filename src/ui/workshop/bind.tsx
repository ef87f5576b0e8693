"use client";
import { useEffect, useState } from "react";
import {
  bindingsOf,
  bindPad,
  browserKeeps,
  chordName,
  clashesWith,
  FRAME_ACTIONS,
  FRAME_KEYS,
  isModifier,
  isPadCode,
  padKeys,
  readChord,
  writeChord,
  type Deck,
} from "@/core/keys";
import type { MacroShape } from "@/core/api";
import { useKeyLabels } from "../input/layout";
import { useView } from "../state/store";
import { changeDeck } from "./edit";

/** Where a macro is bound in a deck, in words. */
export function useWhereBound(deck: Deck, macro: MacroShape): string[] {
  const labelOf = useKeyLabels();
  const keys = [
    ...deck.pads.filter((pad) => pad.macro === macro.id).map(padKeys),
    ...deck.extra.filter((e) => e.macro === macro.id).map((e) => e.keys),
  ];
  return keys.map((written) => {
    const chord = readChord(written);
    return chord ? chordName(chord, labelOf) : written;
  });
}

function bound(deck: Deck, macro: MacroShape, keys: string): Deck {
  const chord = readChord(keys);
  if (chord && isPadCode(chord.code) && !chord.ctrl && !chord.alt && !chord.meta)
    return bindPad(deck, { layer: chord.shift ? "shift" : "plain", code: chord.code, macro: macro.id }, true);
  return { ...deck, extra: [...deck.extra.filter((e) => e.keys !== keys), { keys, macro: macro.id }] };
}

/** Binds a macro by pressing the key. What already answers to it is named before anything changes. */
export function Bind({ deck, macro }: { readonly deck: Deck; readonly macro: MacroShape }) {
  const [phase, setPhase] = useState<"idle" | "listening" | { readonly keys: string }>("idle");
  const macros = useView((v) => v.macros);
  const labelOf = useKeyLabels();
  const where = useWhereBound(deck, macro);

  const put = (keys: string) => {
    setPhase("idle");
    const chord = readChord(keys);
    void changeDeck(deck, bound(deck, macro, keys), `${macro.name} is on ${chord ? chordName(chord, labelOf) : keys}`);
  };

  useEffect(() => {
    if (phase !== "listening") return;
    const listen = (event: KeyboardEvent) => {
      if (isModifier(event.code)) return;
      event.preventDefault();
      event.stopPropagation();
      if (event.code === "Escape") return setPhase("idle");
      const keys = writeChord({
        code: event.code,
        shift: event.shiftKey,
        ctrl: event.ctrlKey,
        alt: event.altKey,
        meta: event.metaKey,
      });
      const clashes = clashesWith(bindingsOf(FRAME_KEYS, deck), keys).filter(
        (b) => !(b.command.kind === "macro" && b.command.macro === macro.id),
      );
      if (clashes.length === 0 && !browserKeeps(keys)) put(keys);
      else setPhase({ keys });
    };
    window.addEventListener("keydown", listen, true);
    return () => window.removeEventListener("keydown", listen, true);
  });

  const clashText = (keys: string): string => {
    const chord = readChord(keys);
    const name = chord ? chordName(chord, labelOf) : keys;
    if (browserKeeps(keys)) return `Browsers keep ${name} for themselves. Choose another key.`;
    const [clash] = clashesWith(bindingsOf(FRAME_KEYS, deck), keys).filter(
      (b) => !(b.command.kind === "macro" && b.command.macro === macro.id),
    );
    if (!clash) return "";
    const { command } = clash;
    if (command.kind === "macro")
      return `${name} runs ${macros.find((m) => m.id === command.macro)?.name ?? "a deleted macro"} now.`;
    return `${name} is a frame key: ${command.kind === "frame" ? FRAME_ACTIONS[command.action] : "changes the deck"}. Choose another key.`;
  };
  const replaceable =
    typeof phase === "object" &&
    !browserKeeps(phase.keys) &&
    clashesWith(bindingsOf(FRAME_KEYS, deck), phase.keys).every((b) => b.command.kind === "macro");
  return (
    <div className="text-[13px]">
      <span className="text-ink-2">On deck {deck.number}: </span>
      {where.length > 0 ? where.map((keys) => <kbd key={keys}>{keys}</kbd>) : "no key"}
      <button
        type="button"
        onClick={() => setPhase("listening")}
        aria-pressed={phase === "listening"}
        className={`ml-2 rounded-sm border border-rule px-2 py-0.5 ${phase === "listening" ? "bg-ink text-paper" : "bg-sheet"}`}
      >
        {phase === "listening" ? "Press a key, Esc stops" : "Bind to a key"}
      </button>
      {typeof phase === "object" && (
        <div role="alert" className="mt-2 rounded-md bg-amber-soft px-3 py-2">
          {clashText(phase.keys)}
          <span className="mt-1 flex gap-2">
            {replaceable && (
              <button
                type="button"
                autoFocus
                onClick={() => put(phase.keys)}
                className="rounded-sm border border-edge bg-sheet px-2 py-0.5"
              >
                Put {macro.name} there instead
              </button>
            )}
            <button
              type="button"
              onClick={() => setPhase("listening")}
              className="rounded-sm border border-edge bg-sheet px-2 py-0.5"
            >
              Another key
            </button>
            <button
              type="button"
              onClick={() => setPhase("idle")}
              className="rounded-sm border border-edge bg-sheet px-2 py-0.5"
            >
              Leave it
            </button>
          </span>
        </div>
      )}
    </div>
  );
}
