"use client";
import { useMemo, useState } from "react";
import { bindingsOf, clearPad, DECKS, FRAME_KEYS, type DeckNumber, type Layer } from "@/core/keys";
import { stepsText } from "@/core/macro";
import { COLOURS, findNames } from "@/core/place";
import { useKeyboard } from "../input/keyboard";
import { TONE } from "../parts/tone";
import { notify, set, useView } from "../state/store";
import type { Command } from "@/core/keys";
import { Bind } from "./bind";
import { changeDeck, changeMacro, createMacro, deleteMacro, emptyDeck, redoEdit, undoEdit } from "./edit";
import { KeyMap } from "./keymap";
import { Outcome } from "./outcome";
import { Steps } from "./steps";

/** On this screen only the keys that look and take back mean what they mean on the bench. */
function perform(command: Command): void {
  if (command.kind === "deck") return set({ deck: command.deck });
  if (command.kind === "macro")
    return notify("In the workshop, keys do not run macros. Click a key to open its macro.");
  if (command.action === "undo") void undoEdit();
  else if (command.action === "redo") void redoEdit();
  else if (command.action === "goTo") set({ dialog: { kind: "go" } });
  else if (command.action === "keys") set({ dialog: { kind: "keys" } });
}
const nothing = () => undefined;

const BUTTON = "rounded-sm border border-rule bg-sheet px-2 py-1 font-mono text-[12.5px]";

/** Where macros and decks are made. Everything is stored as it is done. */
export function Workshop() {
  const macros = useView((v) => v.macros);
  const decks = useView((v) => v.decks);
  const number = useView((v) => v.deck);
  const dialog = useView((v) => v.dialog);
  const notice = useView((v) => v.notice);
  const [layer, setLayer] = useState<Layer>("plain");
  const [chosen, setChosen] = useState<number | null>(null);
  const [search, setSearch] = useState("");
  /** A macro just made: its name is what comes next. */
  const [made, setMade] = useState<number | null>(null);
  const deck = decks.find((d) => d.number === number) ?? emptyDeck(number);
  const bindings = useMemo(() => bindingsOf(FRAME_KEYS, null), []);
  useKeyboard({ bindings, onCommand: perform, onPeek: nothing, onWaiting: nothing, enabled: dialog === null });
  const macro = macros.find((m) => m.id === chosen) ?? macros[0];
  const found = findNames(macros, (m) => `${m.name} ${stepsText(m.steps)}`, search);
  const make = async (like?: typeof macro) => {
    const id = await createMacro(like);
    if (id === null) return;
    setChosen(id);
    setMade(id);
  };
  return (
    <main id="main" className="flex h-full min-h-0 flex-col" data-ready>
      <header className="flex min-h-[46px] flex-wrap items-center gap-2 border-b border-rule px-3.5 py-1">
        <h1 className="text-[15px] font-bold">Workshop</h1>
        {macro && (
          <span className="truncate rounded-sm bg-ink px-2 py-1 font-mono text-[12.5px] text-paper">{macro.name}</span>
        )}
        <p
          role="status"
          aria-live="polite"
          data-testid="notice"
          className={`min-w-0 flex-1 truncate text-[13px] ${notice?.tone === "trouble" ? "text-brick" : "text-ink-2"}`}
        >
          {notice?.text}
        </p>
        <button type="button" className={BUTTON} onClick={() => void make()}>
          New macro
        </button>
        {macro && (
          <>
            <button type="button" className={BUTTON} onClick={() => void make(macro)}>
              Duplicate
            </button>
            <button type="button" className={BUTTON} onClick={() => void deleteMacro(macro)}>
              Delete
            </button>
          </>
        )}
        <button type="button" className={BUTTON} onClick={() => void undoEdit()}>
          Undo
        </button>
      </header>
      <section className="border-b border-rule bg-well px-[18px] pt-2.5 pb-2" aria-label="Deck">
        <div className="mb-2 flex flex-wrap items-center gap-3 text-[13px]">
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
          <input
            key={`${number} ${deck.name}`}
            aria-label="Name of the deck"
            defaultValue={deck.name}
            maxLength={80}
            onBlur={(event) =>
              event.target.value.trim() &&
              event.target.value.trim() !== deck.name &&
              void changeDeck(deck, { ...deck, name: event.target.value.trim() }, "Renamed the deck")
            }
            className={`${BUTTON} w-40`}
          />
          <div role="group" aria-label="Layer" className="flex">
            {(["plain", "shift"] as const).map((l) => (
              <button
                key={l}
                type="button"
                aria-pressed={layer === l}
                onClick={() => setLayer(l)}
                className={`border border-rule px-2 py-1 text-[12.5px] ${layer === l ? "bg-ink text-paper" : "bg-sheet"}`}
              >
                {l === "plain" ? "Plain" : "With Shift"}
              </button>
            ))}
          </div>
          <span className="ml-auto text-ink-2 max-md:hidden">
            click a key to open its macro, drag it to another to swap
          </span>
        </div>
        <KeyMap deck={deck} layer={layer} chosen={macro?.id ?? null} onChoose={setChosen} />
      </section>
      <div className="grid min-h-0 flex-1 max-lg:overflow-y-auto lg:grid-cols-[230px_minmax(0,1fr)_minmax(0,1.1fr)]">
        <section aria-label="Macros" className="flex min-h-0 flex-col border-r border-rule max-lg:max-h-60">
          <input
            aria-label="Search macros"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            placeholder="Search macros"
            className="border-b border-rule bg-sheet px-3.5 py-2 text-[13px]"
          />
          <ul className="min-h-0 flex-1 overflow-y-auto">
            {found.map((m) => (
              <li key={m.id}>
                <button
                  type="button"
                  aria-current={m.id === macro?.id ? "true" : undefined}
                  onClick={() => setChosen(m.id)}
                  className={`flex w-full items-center gap-2 px-3.5 py-1.5 text-left text-[13px] ${m.id === macro?.id ? "bg-sheet font-bold" : ""}`}
                >
                  <span aria-hidden className={`h-3 w-3 shrink-0 rounded-[2px] ${TONE[m.colour]}`} />
                  <span className="truncate">{m.name}</span>
                </button>
              </li>
            ))}
            {found.length === 0 && (
              <li className="px-3.5 py-2 text-[13px] text-ink-2">No macro has that in its name or steps.</li>
            )}
          </ul>
        </section>
        {macro ? (
          <>
            <section aria-label="Macro" className="min-h-0 overflow-y-auto border-r border-rule px-[18px] py-3.5">
              <div className="mb-3 flex flex-wrap items-center gap-3">
                <input
                  key={`${macro.id} ${macro.name}`}
                  aria-label="Name of the macro"
                  defaultValue={macro.name}
                  autoFocus={macro.id === made}
                  onFocus={(event) => macro.id === made && event.target.select()}
                  maxLength={80}
                  onBlur={(event) => {
                    const name = event.target.value.trim();
                    if (name === "") event.target.value = macro.name;
                    else if (name !== macro.name) void changeMacro(macro, { name }, `Renamed to ${name}`);
                  }}
                  onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
                  className="min-w-40 flex-1 rounded-sm border border-edge bg-sheet px-2 py-1 text-[15px] font-semibold"
                />
                <div role="radiogroup" aria-label="Colour" className="flex gap-1">
                  {COLOURS.map((colour) => (
                    <button
                      key={colour}
                      type="button"
                      role="radio"
                      aria-checked={macro.colour === colour}
                      aria-label={colour}
                      title={colour}
                      onClick={() => void changeMacro(macro, { colour }, `Coloured ${macro.name}`)}
                      className={`h-6 w-6 rounded-sm ${TONE[colour]} ${macro.colour === colour ? "outline-2 outline-offset-1 outline-ink" : ""}`}
                    />
                  ))}
                </div>
              </div>
              <div className="mb-3">
                <Bind key={`${macro.id} ${number}`} deck={deck} macro={macro} />
                {deck.pads
                  .filter((pad) => pad.macro === macro.id)
                  .map((pad) => (
                    <button
                      key={pad.layer + pad.code}
                      type="button"
                      className="mt-1 text-xs underline"
                      onClick={() =>
                        void changeDeck(deck, clearPad(deck, pad.layer, pad.code), `Took ${macro.name} off its key`)
                      }
                    >
                      take it off the key
                    </button>
                  ))}
              </div>
              <Steps macro={macro} />
            </section>
            <section aria-label="Check" className="min-h-0 overflow-y-auto px-[18px] py-3.5">
              <Outcome macro={macro} />
            </section>
          </>
        ) : (
          <p className="p-6 text-ink-2">There are no macros. Make one with New macro.</p>
        )}
      </div>
    </main>
  );
}
