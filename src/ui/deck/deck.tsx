"use client";
import { memo, useMemo } from "react";
import { PAD_CODES, type Layer, type PadCode } from "@/core/keys";
import type { MacroShape } from "@/core/api";
import { stepsText } from "@/core/macro";
import { useKeyLabels } from "../input/layout";
import { useNarrowScreen } from "../parts/narrow-screen";
import { useNow } from "../parts/now";
import { TONE } from "../parts/tone";
import { runMacro } from "../state/run";
import { isDecided } from "../state/listed";
import { set, useView } from "../state/store";
import { keysText } from "../workshop/where-bound";
import { nowText, usePadGuesses, useRested } from "./pad-now";
import { usePadReasons } from "./pad-states";
import { showPressed } from "../bench/commands";
import { countText } from "../parts/words";

interface PadProps {
  readonly label: string;
  readonly macro: MacroShape | undefined;
  readonly pressed: boolean;
  /** Why it cannot act now. */
  readonly reason: string | undefined;
  /** What matters about it now. */
  readonly now: string;
}

export const Pad = memo(function Pad({ label, macro, pressed, reason, now }: PadProps) {
  if (!macro)
    return (
      <div className="grid h-[41px] min-w-0 grid-cols-[30px_1fr] items-center gap-2 rounded-md border border-rule px-1 text-ink-3">
        <span className="text-center font-mono text-sm">{label}</span>
      </div>
    );
  return (
    <button
      type="button"
      data-macro={macro.name}
      onClick={() => {
        showPressed(macro.id);
        runMacro(macro);
      }}
      title={`${macro.name}: ${reason ?? stepsText(macro.steps)}`}
      data-dimmed={reason !== undefined || undefined}
      className={`grid h-[41px] min-w-0 grid-cols-[30px_minmax(0,1fr)] items-center gap-x-2 contain-strict rounded-md border border-rule py-[3px] pr-1 pl-1 text-left ${pressed ? "bg-ink text-paper" : "bg-sheet"}`}
    >
      <span
        aria-hidden
        className={`grid h-full place-items-center rounded-sm font-mono text-sm font-bold ${pressed ? "bg-sheet text-ink" : reason ? "border border-edge text-ink-2" : TONE[macro.colour]}`}
      >
        {label}
      </span>
      {/* A column that wraps: a name that takes two lines pushes what is beneath it out of sight. */}
      <span className="flex h-[31px] min-w-0 flex-col flex-wrap justify-center overflow-hidden">
        <span className="line-clamp-2 w-full text-[12.5px] leading-[15px] font-semibold break-words">{macro.name}</span>
        <span className={`block w-full truncate text-[11px] leading-[14px] ${pressed ? "text-paper" : "text-ink-2"}`}>
          {reason ?? now}
        </span>
      </span>
    </button>
  );
});

/** What macros act on, in words. */
function useTarget(): string {
  const ticked = useView((v) => v.selected);
  const group = useView((v) => v.listing.groups.find((one) => one.key === v.focusGroup) ?? null);
  const focusId = useView((v) => v.focusId);
  const decided = useView((v) => v.focusId !== null && isDecided(v.focusId));
  if (ticked > 0) return `acts on ${countText(ticked)} selected`;
  if (group) return `acts on the group of ${countText(group.count)}`;
  if (focusId === null) return "nothing to act on";
  return decided ? "decided: a key decides it again, U takes it back" : "acts on this message";
}

/** The pads under the left hand. */
export function Deck({ layer }: { readonly layer: Layer }) {
  const decks = useView((v) => v.decks);
  const current = useView((v) => v.peek ?? v.deck);
  const macros = useView((v) => v.macros);
  const pressed = useView((v) => v.pressed);
  const folded = useView((v) => v.folded);
  const typed = useView((v) => v.typed);
  const labelOf = useKeyLabels();
  const phone = useNarrowScreen();
  const target = useTarget();
  const reasons = usePadReasons();
  const rested = useRested();
  const guesses = usePadGuesses();
  const zone = useView((v) => v.home?.person.zone ?? "UTC");
  const minute = useNow(60_000);
  const deck = decks.find((d) => d.number === current);
  const nows = useMemo(() => {
    void minute;
    const here = new Set(deck?.pads.map(({ macro }) => macro));
    const shown = macros.filter(({ id }) => here.has(id));
    return new Map(shown.map((macro) => [macro.id, nowText(macro, zone, guesses, rested.get(macro.id))]));
  }, [deck, macros, zone, guesses, rested, minute]);
  const on = (code: PadCode) => {
    const pad = deck?.pads.find((p) => p.layer === layer && p.code === code && !p.off);
    return macros.find((macro) => macro.id === pad?.macro);
  };
  const others = (deck?.extra ?? []).flatMap(({ keys, macro }) => {
    const name = macros.find((one) => one.id === macro)?.name;
    return name ? [{ keys, name }] : [];
  });
  const full = deck?.pads.some((pad) => macros.some((macro) => macro.id === pad.macro)) ?? false;

  if (phone) {
    const onLayer = (which: Layer) =>
      PAD_CODES.map((code) => {
        const pad = deck?.pads.find((p) => p.layer === which && p.code === code && !p.off);
        return macros.find((macro) => macro.id === pad?.macro);
      }).filter((macro) => macro !== undefined);
    return <PhoneDeck plain={onLayer("plain")} shift={onLayer("shift")} target={target} />;
  }
  return (
    <section aria-label="Deck" className="isolate min-w-0 px-3.5 pt-2.5 pb-2.5">
      <div className="mb-1.5 flex justify-between gap-4 text-xs whitespace-nowrap text-ink-2">
        <span className="truncate">
          <b className="font-bold text-ink">
            Deck {current}
            {deck ? `, ${deck.name}` : ""}
          </b>{" "}
          &nbsp;{typed.length > 0 ? `${keysText(typed.join(" "), labelOf)} …` : target}
        </span>
        <span className="flex gap-3 max-lg:hidden">
          <span>
            <kbd>1</kbd>–<kbd>9</kbd> decks
          </span>
          <span>
            <kbd>Shift</kbd> second layer
          </span>
          <span>
            <kbd>Alt</kbd> look first
          </span>
          <span>
            <kbd>?</kbd> all keys
          </span>
        </span>
      </div>
      {!folded && (
        <div className="grid grid-cols-5 gap-[5px]">
          {PAD_CODES.map((code) => {
            const macro = on(code);
            return (
              <Pad
                key={code}
                label={labelOf(code)}
                macro={macro}
                pressed={macro !== undefined && pressed === String(macro.id)}
                reason={macro && reasons.get(macro.id)}
                now={(macro && nows.get(macro.id)) ?? ""}
              />
            );
          })}
        </div>
      )}
      {!folded && others.length > 0 && (
        <p className="mt-1.5 truncate text-xs text-ink-2" title="Other keys of this deck">
          {others.map(({ keys, name }) => (
            <span key={keys} className="mr-3">
              <kbd>{keysText(keys, labelOf)}</kbd> {name}
            </span>
          ))}
        </p>
      )}
      {!folded && !full && (
        <p className="mt-2 text-xs text-ink-2">
          No macros are on this deck yet. Press ; and choose Workshop to put some there.
        </p>
      )}
    </section>
  );
}

/** On a phone: four pads in a row, and the rest in a sheet. */
interface PhoneProps {
  readonly plain: readonly MacroShape[];
  /** Those of the second layer. */
  readonly shift: readonly MacroShape[];
  /** What they act on, in words. */
  readonly target: string;
}

function PhoneDeck({ plain, shift, target }: PhoneProps) {
  const folded = useView((v) => v.folded);
  const shown = [plain[0], plain[7], plain[8]].filter((macro) => macro !== undefined);
  const button = "h-[52px] truncate rounded-md px-1 text-[13px] font-bold";
  return (
    <section aria-label="Deck" className="p-2.5">
      {folded && (
        <div className="mb-2 max-h-[56vh] overflow-y-auto">
          <p className="mb-1.5 text-[13px] text-ink-2">{target}</p>
          {[plain, shift].map((macros, layer) => (
            <div key={layer} className={`grid grid-cols-2 gap-1.5 ${layer === 1 ? "mt-3" : ""}`}>
              {macros.map((macro) => (
                <button
                  key={macro.id}
                  type="button"
                  className={`${button} whitespace-normal leading-tight ${TONE[macro.colour]}`}
                  onClick={() => (set({ folded: false }), runMacro(macro))}
                >
                  {macro.name}
                </button>
              ))}
            </div>
          ))}
        </div>
      )}
      <div className="grid grid-cols-4 gap-1.5">
        {shown.map((macro) => (
          <button
            key={macro.id}
            type="button"
            className={`${button} ${TONE[macro.colour]}`}
            onClick={() => runMacro(macro)}
          >
            {macro.name}
          </button>
        ))}
        <button
          type="button"
          className={`${button} bg-ink text-paper`}
          aria-expanded={folded}
          onClick={() => set({ folded: !folded })}
        >
          {folded ? "Fewer" : "All pads"}
        </button>
      </div>
    </section>
  );
}
