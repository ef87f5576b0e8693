import { useEffect, useEffectEvent, useMemo, useRef } from "react";
import {
  foreseenBy,
  IDLE,
  isPadCode,
  keyTable,
  matchKey,
  type Binding,
  type Command,
  SEQUENCE_WAIT_MS,
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
export const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) &&
  (target as HTMLInputElement).type !== "checkbox";

/** Enter and Space on a focused control press it, as everywhere. */
const pressesControl = (event: KeyboardEvent): boolean =>
  (event.code === "Enter" || event.code === "Space") &&
  event.target instanceof HTMLElement &&
  event.target.closest("button, a[href], summary, input, [role=option], [role=menuitem]") !== null;

/**
 * Gives core/keys the window's keyboard and its clock. What was typed so far outlives any change of the bindings:
 * a deck that is looked at has others, and news may come between the two keys of a sequence. Times are those of
 * the strokes themselves, so a window that was busy meanwhile takes them as they were meant.
 */
export function useKeyboard({
  bindings,
  onCommand,
  onPeek,
  onWaiting,
  onForesee,
  onEmpty,
  enabled,
}: KeyHandlers): void {
  const table = useMemo(() => keyTable(bindings), [bindings]);
  const state = useRef<KeyState>(IDLE);
  const given = useRef<ReturnType<typeof setTimeout>>(undefined);
  const waitNoMore = useEffectEvent(() => {
    if (given.current === undefined) return;
    clearTimeout(given.current);
    given.current = undefined;
    onWaiting([]);
  });
  const onDown = useEffectEvent((event: KeyboardEvent) => {
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
    const step = matchKey(table, state.current, { type: "down", chord, repeat: event.repeat }, event.timeStamp);
    state.current = step.state;
    const { outcome } = step;
    if (outcome.kind === "nothing") {
      const isPlain = !chord.ctrl && !chord.alt && !chord.meta && !event.repeat;
      if (isPlain && isPadCode(chord.code)) onEmpty?.(chord.code);
      return;
    }
    event.preventDefault();
    if (outcome.kind === "command") {
      waitNoMore();
      onCommand(outcome.command, outcome.repeat);
    } else if (outcome.kind === "peek") onPeek(outcome.deck);
    else if (outcome.kind === "waiting") {
      onWaiting(outcome.typed);
      clearTimeout(given.current);
      given.current = setTimeout(() => waitNoMore(), SEQUENCE_WAIT_MS);
    }
  });
  const onUp = useEffectEvent((event: KeyboardEvent) => {
    onForesee?.(null);
    const { state: after, outcome } = matchKey(table, state.current, { type: "up", code: event.code }, event.timeStamp);
    state.current = after;
    if (outcome.kind === "unpeek") onPeek(null);
    else if (outcome.kind === "command") {
      onPeek(null);
      onCommand(outcome.command, false);
    }
  });
  const forget = useEffectEvent(() => {
    state.current = IDLE;
    onPeek(null);
    waitNoMore();
    onForesee?.(null);
  });
  useEffect(() => {
    if (!enabled) return;
    const down = (event: KeyboardEvent) => onDown(event);
    const up = (event: KeyboardEvent) => onUp(event);
    const left = () => forget();
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", left);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", left);
      left();
    };
  }, [enabled]);
}
