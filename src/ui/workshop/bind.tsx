"use client";
import { useState } from "react";
import { useHeard } from "../input/heard";
import {
  bindingsOf,
  bindPad,
  browserKeeps,
  browserUses,
  clashesWith,
  clearPad,
  FRAME_ACTIONS,
  isModifier,
  isPadCode,
  LONGEST_SEQUENCE,
  padKeys,
  readChord,
  writeChord,
  type Binding,
  type Deck,
} from "@/core/keys";
import type { MacroShape } from "@/core/api";
import { useFrame } from "../input/frame";
import { useKeyLabels } from "../input/layout";
import { useView } from "../state/store";
import { changeDeck } from "./edit";
import { boundAt, keysText, type Bound } from "./where-bound";

/** The deck with the macro on these keys beside those it has. */
function bound(deck: Deck, macro: MacroShape, keys: string): Deck {
  const chord = readChord(keys);
  if (chord && isPadCode(chord.code) && !chord.ctrl && !chord.alt && !chord.meta)
    return bindPad(deck, { layer: chord.shift ? "shift" : "plain", code: chord.code, macro: macro.id }, false);
  return { ...deck, extra: [...deck.extra.filter((e) => e.keys !== keys), { keys, macro: macro.id }] };
}

function unbound(deck: Deck, keys: string): Deck {
  const pad = deck.pads.find((p) => padKeys(p) === keys);
  return pad ? clearPad(deck, pad.layer, pad.code) : { ...deck, extra: deck.extra.filter((e) => e.keys !== keys) };
}

const switched = (deck: Deck, keys: string): Deck => ({
  ...deck,
  pads: deck.pads.map((pad) => {
    if (padKeys(pad) !== keys) return pad;
    const { off, ...rest } = pad;
    return off ? rest : { ...rest, off: true as const };
  }),
});

type Phase =
  | { readonly is: "idle" }
  | { readonly is: "listening"; readonly typed: readonly string[]; readonly sequence: boolean }
  /** Keys that something else answers to, or that cannot be had. */
  | { readonly is: "clash"; readonly keys: string };

const IDLE: Phase = { is: "idle" };
const LINK = "text-xs underline";
const BUTTON = "rounded-sm border border-edge bg-sheet px-2 py-0.5";

/** Where a macro is bound, and binding it by pressing keys. What already answers to them is named first. */
export function Bind({ deck, macro }: { readonly deck: Deck; readonly macro: MacroShape }) {
  const [phase, setPhase] = useState<Phase>(IDLE);
  const macros = useView((v) => v.macros);
  const decks = useView((v) => v.decks);
  const labelOf = useKeyLabels();
  const where = boundAt(decks, macro.id);
  const bindings = bindingsOf(useFrame(), deck);
  const others = (keys: string): Binding[] =>
    clashesWith(bindings, keys).filter((b) => !(b.command.kind === "macro" && b.command.macro === macro.id));

  const put = (keys: string) => {
    setPhase(IDLE);
    void changeDeck(deck, bound(deck, macro, keys), `${macro.name} is on ${keysText(keys, labelOf)}`);
  };
  const offer = (keys: string) => {
    if (others(keys).length === 0 && !browserKeeps(keys) && browserUses(keys) === null) put(keys);
    else setPhase({ is: "clash", keys });
  };

  const listen = (event: KeyboardEvent) => {
    if (phase.is !== "listening" || isModifier(event.code)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.code === "Escape") return setPhase(IDLE);
    const { typed, sequence } = phase;
    if (sequence && event.code === "Enter") return typed.length > 0 ? offer(typed.join(" ")) : setPhase(IDLE);
    const chord = writeChord({
      code: event.code,
      shift: event.shiftKey,
      ctrl: event.ctrlKey,
      alt: event.altKey,
      meta: event.metaKey,
    });
    const next = [...typed, chord];
    if (sequence && next.length < LONGEST_SEQUENCE) setPhase({ ...phase, typed: next });
    else offer(next.join(" "));
  };
  useHeard("keydown", listen, { capture: true, isOn: phase.is === "listening" });

  const clashText = (keys: string): string => {
    const name = keysText(keys, labelOf);
    if (browserKeeps(keys)) return `Browsers keep ${name} for themselves. Choose another key.`;
    const [clash] = others(keys);
    const use = browserUses(keys);
    if (!clash) return use ? `Browsers ${use} with ${name}; here that would be had no more.` : "";
    const theirs = keysText(clash.keys.map(writeChord).join(" "), labelOf);
    const shadows = theirs === name ? name : `${theirs} and ${name} begin alike: ${theirs}`;
    const { command } = clash;
    if (command.kind === "macro")
      return `${shadows} runs ${macros.find((m) => m.id === command.macro)?.name ?? "a deleted macro"} now.`;
    const what = command.kind === "frame" ? FRAME_ACTIONS[command.action] : "changes the deck";
    return `${shadows} is a frame key: ${what}. Choose another key.`;
  };
  const replaceable =
    phase.is === "clash" && !browserKeeps(phase.keys) && others(phase.keys).every((b) => b.command.kind === "macro");
  return (
    <div className="text-[13px]">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {where.length === 0 && <span className="text-ink-2">On no key.</span>}
        {where.map((one) => (
          <BoundKey key={one.deck.number + one.keys} one={one} macro={macro} />
        ))}
        <span className="flex gap-1.5">
          <button
            type="button"
            onClick={() => setPhase({ is: "listening", typed: [], sequence: false })}
            aria-pressed={phase.is === "listening" && !phase.sequence}
            className={`rounded-sm border border-rule px-2 py-0.5 ${phase.is === "listening" && !phase.sequence ? "bg-ink text-paper" : "bg-sheet"}`}
          >
            {phase.is === "listening" && !phase.sequence ? "Press a key, Esc stops" : "Bind to a key"}
          </button>
          <button
            type="button"
            onClick={() => setPhase({ is: "listening", typed: [], sequence: true })}
            aria-pressed={phase.is === "listening" && phase.sequence}
            className={`rounded-sm border border-rule px-2 py-0.5 ${phase.is === "listening" && phase.sequence ? "bg-ink text-paper" : "bg-sheet"}`}
          >
            {phase.is === "listening" && phase.sequence
              ? `${phase.typed.length > 0 ? keysText(phase.typed.join(" "), labelOf) : "Press up to three keys"}, Enter ends`
              : "Bind to a sequence"}
          </button>
        </span>
      </div>
      {phase.is === "clash" && (
        <div role="alert" className="mt-2 rounded-md bg-amber-soft px-3 py-2">
          {clashText(phase.keys)}
          <span className="mt-1 flex gap-2">
            {replaceable && (
              <button type="button" autoFocus onClick={() => put(phase.keys)} className={BUTTON}>
                Put {macro.name} there {others(phase.keys).length > 0 ? "instead" : "all the same"}
              </button>
            )}
            <button
              type="button"
              onClick={() => setPhase({ is: "listening", typed: [], sequence: phase.keys.includes(" ") })}
              className={BUTTON}
            >
              Another key
            </button>
            <button type="button" onClick={() => setPhase(IDLE)} className={BUTTON}>
              Leave it
            </button>
          </span>
        </div>
      )}
    </div>
  );
}

function BoundKey({ one: { deck, keys, off }, macro }: { readonly one: Bound; readonly macro: MacroShape }) {
  const labelOf = useKeyLabels();
  const name = keysText(keys, labelOf);
  const isPad = deck.pads.some((pad) => padKeys(pad) === keys);
  return (
    <span className="flex items-center gap-1.5">
      <kbd>{name}</kbd>
      <span className="text-xs text-ink-2">
        deck {deck.number}
        {off && ", off"}
      </span>
      {isPad && (
        <button
          type="button"
          className={LINK}
          onClick={() => void changeDeck(deck, switched(deck, keys), `${off ? "Switched on" : "Switched off"} ${name}`)}
        >
          {off ? "switch on" : "switch off"}
        </button>
      )}
      <button
        type="button"
        className={LINK}
        onClick={() => void changeDeck(deck, unbound(deck, keys), `Took ${macro.name} off ${name}`)}
      >
        take off
      </button>
    </span>
  );
}
