/**
 * Keys by physical position, as the UI Events specification names them ("KeyF", "Digit1", "Semicolon"), so
 * that a deck is under the same fingers on every layout. Written form of a chord: modifiers, then the code,
 * joined by "+": "Shift+KeyF", "Ctrl+Alt+Digit1". A sequence is up to three chords with a space between.
 */
export interface Chord {
  readonly code: string;
  readonly shift: boolean;
  readonly ctrl: boolean;
  readonly alt: boolean;
  readonly meta: boolean;
}

export type Sequence = readonly Chord[];

export const LONGEST_SEQUENCE = 3;

const MODIFIERS = ["Ctrl", "Alt", "Shift", "Meta"] as const;
/** Keys that only modify others cannot be bound by themselves. */
const MODIFIER_CODE = /^(Shift|Control|Alt|Meta|OS|Fn|CapsLock|AltGraph)/;
const CODE = /^[A-Z][A-Za-z0-9]{0,30}$/;

export const isModifier = (code: string): boolean => MODIFIER_CODE.test(code);

export function writeChord(chord: Chord): string {
  const on = { Ctrl: chord.ctrl, Alt: chord.alt, Shift: chord.shift, Meta: chord.meta };
  return [...MODIFIERS.filter((name) => on[name]), chord.code].join("+");
}

/** @returns null when the text is no chord. */
export function readChord(text: string): Chord | null {
  const parts = text.split("+");
  const code = parts.pop() ?? "";
  if (!CODE.test(code) || isModifier(code)) return null;
  if (parts.some((part, i) => !MODIFIERS.includes(part as (typeof MODIFIERS)[number]) || parts.indexOf(part) !== i))
    return null;
  const has = (name: string) => parts.includes(name);
  return { code, shift: has("Shift"), ctrl: has("Ctrl"), alt: has("Alt"), meta: has("Meta") };
}

export const writeSequence = (sequence: Sequence): string => sequence.map(writeChord).join(" ");

/** @returns null when the text is not one to three chords. */
export function readSequence(text: string): Sequence | null {
  const chords = text.split(" ").map(readChord);
  if (chords.length > LONGEST_SEQUENCE || chords.some((chord) => chord === null)) return null;
  return chords as Chord[];
}

const PLAIN_NAMES: Record<string, string> = {
  Semicolon: ";",
  Quote: "'",
  Comma: ",",
  Period: ".",
  Slash: "/",
  Backslash: "\\",
  BracketLeft: "[",
  BracketRight: "]",
  Minus: "-",
  Equal: "=",
  Backquote: "`",
  Space: "Space",
  Escape: "Esc",
  ArrowUp: "↑",
  ArrowDown: "↓",
  ArrowLeft: "←",
  ArrowRight: "→",
  PageUp: "PgUp",
  PageDown: "PgDn",
  Backspace: "Backspace",
};

/** What the key is called where the layout is not known. */
export function codeName(code: string): string {
  const letter = /^(?:Key|Digit)(.)$/.exec(code)?.[1];
  return letter ?? PLAIN_NAMES[code] ?? code.replace(/^Numpad/, "Num ");
}

/**
 * A chord as a person reads it: "Shift F".
 * @param label what the person's layout prints on a key, where it is known
 */
export function chordName(chord: Chord, label: (code: string) => string | undefined = () => undefined): string {
  const on = { Ctrl: chord.ctrl, Alt: chord.alt, Shift: chord.shift, Meta: chord.meta };
  return [...MODIFIERS.filter((name) => on[name]), label(chord.code) ?? codeName(chord.code)].join(" ");
}
