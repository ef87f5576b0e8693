"use client";
import { useState } from "react";
import { useHeard } from "../input/heard";
import {
  bindingsOf,
  browserKeeps,
  browserUses,
  chordName,
  clashesWith,
  FRAME_ACTIONS,
  isModifier,
  padKeys,
  readSequence,
  writeChord,
  type FrameAction,
} from "@/core/keys";
import { findNames } from "@/core/place";
import { useFrame } from "../input/frame";
import { useKeyLabels } from "../input/layout";
import { Modal } from "../parts/picker";
import { alter } from "../places/act";
import { notify, set, useView } from "../state/store";

const close = () => set({ dialog: null });

interface Line {
  readonly keys: string;
  readonly name: string;
  /** For a frame key: what it does, so that it can be put on another key. */
  readonly action?: FrameAction;
}

/** Listens for the next key. @param onKey gets it as it is stored; null for Esc */
function useNextKey(listening: boolean, onKey: (keys: string | null) => void): void {
  const listen = (event: KeyboardEvent) => {
    if (isModifier(event.code)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.code === "Escape") return onKey(null);
    const { code, shiftKey: shift, ctrlKey: ctrl, altKey: alt, metaKey: meta } = event;
    onKey(writeChord({ code, shift, ctrl, alt, meta }));
  };
  useHeard("keydown", listen, { capture: true, isOn: listening });
}

/** Every key there is, searchable; those of the frame can be put on other keys. */
export function Keys() {
  const [typed, setTyped] = useState("");
  const [moving, setMoving] = useState<Line | null>(null);
  const macros = useView((v) => v.macros);
  const deck = useView((v) => v.decks.find((d) => d.number === v.deck)) ?? null;
  const moved = useView((v) => v.home?.settings.frame) ?? {};
  const frame = useFrame();
  const labelOf = useKeyLabels();
  const textOf = (keys: string) => (readSequence(keys) ?? []).map((chord) => chordName(chord, labelOf)).join(" then ");
  const macroName = (id: number) => macros.find((macro) => macro.id === id)?.name;
  const lines: Line[] = [
    ...[...(deck?.pads ?? []).map((pad) => ({ keys: padKeys(pad), macro: pad.macro })), ...(deck?.extra ?? [])].flatMap(
      ({ keys, macro }) => {
        const name = macroName(macro);
        return name ? [{ keys, name }] : [];
      },
    ),
    ...frame.map(([keys, action]) => ({ keys, name: FRAME_ACTIONS[action], action })),
    { keys: "Digit1", name: "deck 1, and so on to 9; hold to look" },
  ];
  const put = (action: FrameAction, keys: readonly string[] | undefined, said: string) => {
    const { [action]: _, ...others } = moved;
    void alter("/settings", { frame: moved }, { frame: keys ? { ...others, [action]: [...keys] } : others }, said);
  };
  useNextKey(moving !== null, (keys) => {
    const line = moving;
    setMoving(null);
    if (keys === null || !line?.action) return;
    const { action } = line;
    const [clash] = clashesWith(bindingsOf(frame, deck), keys);
    if (browserKeeps(keys)) return notify(`Browsers keep ${textOf(keys)} for themselves.`, "trouble");
    if (clash) return notify(`${textOf(keys)} does something else already. Free it first.`, "trouble");
    const use = browserUses(keys);
    const own = frame.filter(([, one]) => one === action).map(([one]) => (one === line.keys ? keys : one));
    put(action, own, `${textOf(keys)}: ${FRAME_ACTIONS[action]}${use ? `. Browsers ${use} with it elsewhere` : ""}`);
  });
  const found = findNames(lines, (line) => `${line.name} ${textOf(line.keys)}`, typed);
  return (
    <Modal title="Every key" onClose={close} wide>
      <input
        autoFocus
        aria-label="Search keys"
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        placeholder="Search: archive, select, undo…"
        className="w-full border-b border-rule bg-sheet px-4 py-2.5 outline-none"
      />
      <ul
        tabIndex={0}
        aria-label="Keys"
        className="grid max-h-[56vh] grid-cols-1 gap-x-8 overflow-y-auto px-4 py-3 text-[13px] sm:grid-cols-2"
      >
        {found.map((line) => (
          <li
            key={line.keys + line.name}
            className="flex items-baseline justify-between gap-3 border-b border-rule-soft py-1"
          >
            <span className="min-w-0">{line.name}</span>
            <span className="flex shrink-0 items-baseline gap-2">
              {line.action && (
                <button
                  type="button"
                  aria-label={`Put “${line.name}” on another key than ${textOf(line.keys)}`}
                  aria-pressed={moving?.keys === line.keys}
                  onClick={() => setMoving(line)}
                  className="text-xs text-ink-2 underline"
                >
                  {moving?.keys === line.keys ? "press a key, Esc stops" : "move"}
                </button>
              )}
              <kbd>{textOf(line.keys)}</kbd>
            </span>
          </li>
        ))}
        {found.length === 0 && <li className="text-ink-2">No key does that. Macros are bound in the workshop.</li>}
      </ul>
      {Object.keys(moved).length > 0 && (
        <p className="border-t border-rule px-4 py-2 text-[13px]">
          {Object.keys(moved).length} of the frame’s actions are on other keys than usual.{" "}
          <button
            type="button"
            className="underline"
            onClick={() => void alter("/settings", { frame: moved }, { frame: {} }, "The frame is on its usual keys")}
          >
            Put them back
          </button>
        </p>
      )}
    </Modal>
  );
}
