import { useEffect } from "react";
import {
  foreseenBy,
  IDLE,
  isPadCode,
  keyTable,
  matchKey,
  type Binding,
  type Command,
  type KeyState,
} from "@/core/keys";

export interface KeyHandlers {
  /** Computed anew when the bindings change. */
  readonly bindings: readonly Binding[];
  readonly onCommand: (command: Command, repeat: boolean) => void;
  readonly onPeek: (deck: number | null) => void;
  readonly onWaiting: (typed: readonly string[]) => void;
  /** A macro's key is held with Alt: what would it do? null when it is let go. */
  readonly onForesee?: (macro: number | null) => void;
  /** A plain letter of the deck that nothing is on. */
  readonly onEmpty?: (code: string) => void;
  readonly enabled: boolean;
}

/** Where letters are text, not keys of the deck. */
const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
  (target as HTMLInputElement).type !== "checkbox";

/** Enter and Space on a focused control press it, as everywhere. */
const pressesControl = (event: KeyboardEvent): boolean =>
  (event.code === "Enter" || event.code === "Space") &&
  event.target instanceof HTMLElement &&
  event.target.closest("button, a[href], summary, input, [role=option], [role=menuitem]") !== null;

/** Gives core/keys the window's keyboard and clock. */
export function useKeyboard({
  bindings,
  onCommand,
  onPeek,
  onWaiting,
  onForesee,
  onEmpty,
  enabled,
}: KeyHandlers): void {
  useEffect(() => {
    if (!enabled) return;
    const table = keyTable(bindings);
    let state: KeyState = IDLE;
    const down = (event: KeyboardEvent) => {
      if (event.isComposing || event.defaultPrevented || isTyping(event.target) || pressesControl(event)) return;
      const chord = {
        code: event.code,
        shift: event.shiftKey,
        ctrl: event.ctrlKey,
        alt: event.altKey,
        meta: event.metaKey,
      };
      const foreseen = onForesee && foreseenBy(table, chord);
      if (foreseen !== undefined) {
        event.preventDefault();
        if (!event.repeat) onForesee?.(foreseen);
        return;
      }
      const step = matchKey(table, state, { type: "down", chord, repeat: event.repeat }, performance.now());
      state = step.state;
      const { outcome } = step;
      if (outcome.kind === "nothing") {
        const isPlain = !chord.ctrl && !chord.alt && !chord.meta && !event.repeat;
        if (isPlain && isPadCode(chord.code)) onEmpty?.(chord.code);
        return;
      }
      event.preventDefault();
      if (outcome.kind === "command") {
        onWaiting([]);
        onCommand(outcome.command, outcome.repeat);
      } else if (outcome.kind === "peek") onPeek(outcome.deck);
      else if (outcome.kind === "waiting") onWaiting(outcome.typed);
    };
    const up = (event: KeyboardEvent) => {
      onForesee?.(null);
      const step = matchKey(table, state, { type: "up", code: event.code }, performance.now());
      state = step.state;
      if (step.outcome.kind === "unpeek") onPeek(null);
      else if (step.outcome.kind === "command") {
        onPeek(null);
        onCommand(step.outcome.command, false);
      }
    };
    const blur = () => {
      state = IDLE;
      onPeek(null);
      onForesee?.(null);
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", blur);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", blur);
    };
  }, [bindings, onCommand, onPeek, onWaiting, onForesee, onEmpty, enabled]);
}
