"use client";
import { Choice } from "../parts/choice";
import { HeaderNotice } from "../parts/notice";
import { TextEdit } from "../parts/text-edit";
import { useRouter } from "next/navigation";
import { useMemo, useState } from "react";
import type { MacroShape } from "@/core/api";
import { bindingsOf, DECKS, LAYERS, type Command, type DeckNumber, type Layer } from "@/core/keys";
import { checkMacro } from "@/core/macro";
import { useFrame } from "../input/frame";
import { useKeyboard } from "../input/keyboard";
import { planContext } from "../state/decide";
import { startRecording } from "../state/record";
import { notify, set, useView } from "../state/store";
import { Bind } from "./bind";
import { redoLast, undoLast } from "../state/edits";
import { changeDeck, createMacro, deleteMacro, emptyDeck } from "./edit";
import { KeyMap } from "./keymap";
import { MacroHead } from "./macro-head";
import { MacroList } from "./macro-list";
import { NewMacro } from "./new-macro";
import { Outcome } from "./outcome";
import { Packs } from "./packs";
import { MacroSettings } from "./settings";
import { Steps } from "./steps";
import { Swipes } from "./swipes";

/** On this screen only the keys that look and take back mean what they mean on the bench. */
function perform(command: Command): void {
  if (command.kind === "deck") return set({ deck: command.deck });
  if (command.kind === "macro")
    return notify("In the workshop, keys do not run macros. Click a key to open its macro.");
  if (command.action === "undo") void undoLast();
  else if (command.action === "redo") void redoLast();
  else if (command.action === "goTo") set({ dialog: { kind: "go" } });
  else if (command.action === "keys") set({ dialog: { kind: "keys" } });
}
const nothing = () => undefined;

const BUTTON = "rounded-sm border border-rule bg-sheet px-2 py-1 font-mono text-[12.5px]";

/** Where macros and decks are made. Everything is stored as it is done. */
export function Workshop() {
  const router = useRouter();
  const macros = useView((v) => v.macros);
  const decks = useView((v) => v.decks);
  const directory = useView((v) => v.directory);
  const number = useView((v) => v.deck);
  const dialog = useView((v) => v.dialog);
  const opened = useView((v) => v.openMacro);
  const [layer, setLayer] = useState<Layer>("plain");
  /** Whether the name of a new macro is being typed: it is made once it has one. */
  const [naming, setNaming] = useState(false);
  const deck = decks.find((d) => d.number === number) ?? emptyDeck(number);
  const frame = useFrame();
  const bindings = useMemo(() => bindingsOf(frame, null), [frame]);
  useKeyboard({ bindings, onCommand: perform, onPeek: nothing, onWaiting: nothing, enabled: dialog === null });
  const macro = macros.find((m) => m.id === opened) ?? macros[0];
  const context = useMemo(() => {
    // These are what the context is made from.
    void [directory, macros];
    return { ...planContext(), now: new Date() };
  }, [directory, macros]);
  const findings = useMemo(() => (macro ? checkMacro(macro, context) : []), [macro, context]);
  const choose = (id: number) => set({ openMacro: id });
  const copy = async (like: MacroShape) => {
    const id = await createMacro(like);
    if (id !== null) choose(id);
  };
  const bound = deck.pads.filter((pad) => pad.layer === layer && macros.some((m) => m.id === pad.macro)).length;
  return (
    <main id="main" className="flex h-full min-h-0 flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-2 border-b border-rule px-3.5 py-1">
        <h1 className="text-[15px] font-bold">Workshop</h1>
        {macro && (
          <span className="truncate rounded-sm bg-ink px-2 py-1 font-mono text-[12.5px] text-paper">{macro.name}</span>
        )}
        <HeaderNotice />
        <button type="button" autoFocus className={BUTTON} onClick={() => setNaming(true)}>
          New macro
        </button>
        <button
          type="button"
          className={BUTTON}
          onClick={() => {
            startRecording();
            router.push("/");
          }}
        >
          Record
        </button>
        {macro && (
          <>
            <button type="button" className={BUTTON} onClick={() => void copy(macro)}>
              Duplicate
            </button>
            <button
              type="button"
              className={BUTTON}
              onClick={() => set({ dialog: { kind: "rule", from: { macro: macro.id } } })}
            >
              Always do this…
            </button>
            <button type="button" className={BUTTON} onClick={() => void deleteMacro(macro)}>
              Delete
            </button>
          </>
        )}
        <Packs macro={macro} />
        <button type="button" className={BUTTON} onClick={() => void undoLast()}>
          Undo
        </button>
      </header>
      <section className="border-b border-rule bg-well px-[18px] pt-2 pb-1" aria-label="Deck">
        <div className="mb-1.5 flex flex-wrap items-center gap-3 text-[13px]">
          <label className="flex items-center gap-1.5">
            Deck
            <select
              value={number}
              onChange={(event) => set({ deck: Number(event.target.value) as DeckNumber })}
              className={BUTTON}
            >
              {DECKS.map((n) => (
                <option key={n} value={n}>
                  {n}, {decks.find((d) => d.number === n)?.name ?? "empty"}
                </option>
              ))}
            </select>
          </label>
          <TextEdit
            key={number}
            label="Name of the deck"
            value={deck.name}
            onChange={(name) => changeDeck(deck, { ...deck, name }, "Renamed the deck")}
            framed
            maxLength={80}
            className="w-32"
          />
          <Choice
            label="Layer"
            options={LAYERS}
            value={layer}
            onChoose={setLayer}
            words={(one) => (one === "plain" ? "Plain" : "With Shift")}
          />
          <span className="ml-auto text-ink-2 max-md:hidden">
            {bound} of 15 pads; an empty one takes the macro below, dragging swaps, Ctrl copies
          </span>
        </div>
        <KeyMap deck={deck} layer={layer} chosen={macro ?? null} onChoose={choose} />
        <Swipes deck={deck} />
      </section>
      <div className="grid min-h-0 flex-1 max-lg:overflow-y-auto lg:grid-cols-[216px_minmax(0,1fr)_minmax(0,0.9fr)]">
        <MacroList chosen={macro?.id ?? null} context={context} onChoose={choose} />
        {naming ? (
          <NewMacro
            onMade={(id) => {
              setNaming(false);
              if (id !== null) choose(id);
            }}
          />
        ) : macro ? (
          <>
            <section aria-label="Macro" className="min-h-0 overflow-y-auto border-r border-rule px-[18px] py-3">
              <MacroHead macro={macro} />
              <div className="mb-2.5">
                <Bind key={`${macro.id} ${number}`} deck={deck} macro={macro} />
              </div>
              <Steps macro={macro} findings={findings} />
              <MacroSettings macro={macro} findings={findings.filter((finding) => finding.path === "0")} />
            </section>
            <section aria-label="Check" className="min-h-0 overflow-y-auto px-[18px] py-3">
              <Outcome macro={macro} findings={findings.filter((finding) => finding.path !== "0")} />
            </section>
          </>
        ) : (
          <p className="p-6 text-ink-2">There are no macros. Make one with New macro.</p>
        )}
      </div>
    </main>
  );
}
