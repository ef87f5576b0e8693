import { readSequence, writeSequence, type Sequence } from "./chord";
import { DECKS, padKeys, type Deck, type DeckNumber } from "./deck";
import { FRAME_KEYS, type FrameAction, type FrameKeys } from "./frame";

export type Command =
  | { readonly kind: "frame"; readonly action: FrameAction }
  | { readonly kind: "macro"; readonly macro: number }
  | { readonly kind: "deck"; readonly deck: DeckNumber };

export interface Binding {
  readonly keys: Sequence;
  readonly command: Command;
}

/** Two bindings that cannot both work. `shadows`: one is the beginning of the other, which is never reached. */
export interface Conflict {
  readonly kind: "same-keys" | "shadows";
  readonly first: Binding;
  readonly second: Binding;
}

/** Everything the keyboard does while that deck is up. Bindings whose keys cannot be read are left out. */
export function bindingsOf(frame: FrameKeys, deck: Deck | null): Binding[] {
  const out: Binding[] = [];
  const add = (keys: string, command: Command) => {
    const sequence = readSequence(keys);
    if (sequence) out.push({ keys: sequence, command });
  };
  for (const [keys, action] of frame) add(keys, { kind: "frame", action });
  for (const number of DECKS) add(`Digit${number}`, { kind: "deck", deck: number });
  for (const pad of deck?.pads ?? []) if (!pad.off) add(padKeys(pad), { kind: "macro", macro: pad.macro });
  for (const { keys, macro } of deck?.extra ?? []) add(keys, { kind: "macro", macro });
  return out;
}

/** Every pair that clashes, in the order of the bindings. */
export function conflictsAmong(bindings: readonly Binding[]): Conflict[] {
  const written = bindings.map((binding) => ({ binding, keys: writeSequence(binding.keys) }));
  const out: Conflict[] = [];
  written.forEach((a, i) => {
    for (const b of written.slice(i + 1)) {
      if (a.keys === b.keys) out.push({ kind: "same-keys", first: a.binding, second: b.binding });
      else if (b.keys.startsWith(`${a.keys} `)) out.push({ kind: "shadows", first: a.binding, second: b.binding });
      else if (a.keys.startsWith(`${b.keys} `)) out.push({ kind: "shadows", first: b.binding, second: a.binding });
    }
  });
  return out;
}

/** What already answers to those keys, or would keep them from being reached. */
export function clashesWith(bindings: readonly Binding[], keys: string): Binding[] {
  return bindings.filter((binding) => {
    const theirs = writeSequence(binding.keys);
    return theirs === keys || theirs.startsWith(`${keys} `) || keys.startsWith(`${theirs} `);
  });
}

const BROWSER_KEEPS = new Set([
  "Ctrl+KeyN",
  "Ctrl+KeyT",
  "Ctrl+KeyW",
  "Ctrl+Shift+KeyN",
  "Ctrl+Shift+KeyT",
  "Ctrl+Shift+KeyW",
  "Alt+F4",
  "Ctrl+Tab",
  "Meta+KeyQ",
  "Meta+KeyW",
  "Meta+KeyN",
  "Meta+KeyT",
]);

/** What browsers do with keys that a page may have. */
const BROWSER_USES: Readonly<Record<string, string>> = {
  "Ctrl+KeyR": "load the page anew",
  F5: "load the page anew",
  "Ctrl+KeyL": "go to the address line",
  "Ctrl+KeyC": "copy",
  "Ctrl+KeyV": "paste",
  "Ctrl+KeyX": "cut",
  "Ctrl+KeyZ": "undo what was typed",
  "Ctrl+Equal": "enlarge the page",
  "Ctrl+Minus": "shrink the page",
  "Ctrl+Digit0": "show the page in its usual size",
  "Alt+ArrowLeft": "go back",
  "Alt+ArrowRight": "go forward",
  F1: "show help",
  F11: "fill the screen",
  F12: "show tools for developers",
  Tab: "move the focus",
  "Shift+Tab": "move the focus",
};

/** What a person gives up in the browser by binding those keys; null where that is nothing. */
export const browserUses = (keys: string): string | null =>
  keys
    .split(" ")
    .map((chord) => BROWSER_USES[chord])
    .find((use) => use !== undefined) ?? null;

/** True where browsers act on the keys themselves before a page may. */
export const browserKeeps = (keys: string): boolean => keys.split(" ").some((chord) => BROWSER_KEEPS.has(chord));

export type KeyProblem = "unreadable" | "browser" | "frame" | "deck";

export const keyProblemText = {
  unreadable: "these are no keys",
  browser: "browsers keep these keys for themselves",
  frame: "the frame is on these keys, or on the beginning of them",
  deck: "digits change the deck",
} satisfies Record<KeyProblem, string>;

/**
 * Why no macro can be on those keys, wherever the wish comes from: a person, a pack or the API.
 * @returns null where it can
 */
export function keyProblem(keys: string, frame: FrameKeys = FRAME_KEYS): KeyProblem | null {
  const sequence = readSequence(keys);
  if (!sequence) return "unreadable";
  const written = writeSequence(sequence);
  if (browserKeeps(written)) return "browser";
  const [clash] = clashesWith(bindingsOf(frame, null), written);
  if (!clash) return null;
  return clash.command.kind === "deck" ? "deck" : "frame";
}
