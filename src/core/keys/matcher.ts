import { isModifier, writeChord, type Chord } from "./chord";
import type { Binding, Command } from "./bindings";
import type { DeckNumber } from "./deck";

/**
 * Which command a key stroke means. Pure: the caller keeps the state and says what time it is.
 *
 * A sequence waits for its next key until a deadline. A digit held down shows its deck while it is held;
 * tapped, it changes to it.
 */
export type KeyState =
  | { readonly phase: "idle" }
  | { readonly phase: "partial"; readonly typed: readonly string[]; readonly deadlineMs: number }
  | {
      readonly phase: "peek";
      readonly deck: DeckNumber;
      readonly code: string;
      readonly sinceMs: number;
      readonly used: boolean;
    };

export type KeyInput =
  | { readonly type: "down"; readonly chord: Chord; readonly repeat: boolean }
  | { readonly type: "up"; readonly code: string };

export type Outcome =
  | { readonly kind: "nothing" }
  /** More keys are needed. */
  | { readonly kind: "waiting"; readonly typed: readonly string[] }
  | { readonly kind: "command"; readonly command: Command; readonly repeat: boolean }
  | { readonly kind: "peek"; readonly deck: DeckNumber }
  /** The held digit was let go: back to the deck before. */
  | { readonly kind: "unpeek" };

/** How long a sequence waits for its next key. */
export const SEQUENCE_WAIT_MS = 1200;
/** A digit held longer than this was held to look, not tapped to change. */
export const PEEK_AFTER_MS = 350;

export const IDLE: KeyState = { phase: "idle" };
const NOTHING: Outcome = { kind: "nothing" };

/** Looked up once per set of bindings, not on every key. */
export interface KeyTable {
  readonly whole: ReadonlyMap<string, Command>;
  readonly beginnings: ReadonlySet<string>;
}

/** Of two bindings on the same keys the later one wins, so a person's own bindings go last. */
export function keyTable(bindings: readonly Binding[]): KeyTable {
  const whole = new Map<string, Command>();
  const beginnings = new Set<string>();
  for (const { keys, command } of bindings) {
    const written = keys.map(writeChord);
    whole.set(written.join(" "), command);
    for (let i = 1; i < written.length; i++) beginnings.add(written.slice(0, i).join(" "));
  }
  return { whole, beginnings };
}

interface Step {
  readonly state: KeyState;
  readonly outcome: Outcome;
}

function down(table: KeyTable, state: KeyState, chord: Chord, repeat: boolean, nowMs: number): Step {
  if (isModifier(chord.code)) return { state, outcome: NOTHING };
  if (state.phase === "peek" && state.code === chord.code) return { state, outcome: NOTHING };
  const kept: KeyState = state.phase === "peek" ? { ...state, used: true } : IDLE;
  const typed = state.phase === "partial" && nowMs <= state.deadlineMs ? state.typed : [];
  const keys = [...typed, writeChord(chord)];
  const written = keys.join(" ");
  const command = table.whole.get(written);
  if (command?.kind === "deck" && !repeat)
    return {
      state: { phase: "peek", deck: command.deck, code: chord.code, sinceMs: nowMs, used: false },
      outcome: { kind: "peek", deck: command.deck },
    };
  if (command) return { state: kept, outcome: { kind: "command", command, repeat } };
  if (table.beginnings.has(written) && !repeat)
    return {
      state: { phase: "partial", typed: keys, deadlineMs: nowMs + SEQUENCE_WAIT_MS },
      outcome: { kind: "waiting", typed: keys },
    };
  // A key that does not go on with the sequence is taken for itself.
  if (typed.length > 0) return down(table, IDLE, chord, repeat, nowMs);
  return { state: kept, outcome: NOTHING };
}

/**
 * The macro whose key is pressed with Alt, to see what it would do; undefined for any other chord, and where
 * the chord with Alt is bound itself.
 */
export function foreseenBy(table: KeyTable, chord: Chord): number | undefined {
  if (!chord.alt || chord.ctrl || chord.meta || table.whole.has(writeChord(chord))) return undefined;
  const plain = table.whole.get(writeChord({ ...chord, alt: false }));
  return plain?.kind === "macro" ? plain.macro : undefined;
}

/** @param nowMs a clock that only rises, in milliseconds */
export function matchKey(table: KeyTable, state: KeyState, input: KeyInput, nowMs: number): Step {
  if (input.type === "down") return down(table, state, input.chord, input.repeat, nowMs);
  if (state.phase !== "peek" || state.code !== input.code) return { state, outcome: NOTHING };
  const looked = state.used || nowMs - state.sinceMs > PEEK_AFTER_MS;
  return {
    state: IDLE,
    outcome: looked
      ? { kind: "unpeek" }
      : { kind: "command", command: { kind: "deck", deck: state.deck }, repeat: false },
  };
}
