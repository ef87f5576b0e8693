/**
 * What a macro saves against doing the same by hand, by the keystroke-level model (Card, Moran, Newell: The
 * keystroke-level model for user performance time with interactive systems, Communications of the ACM 23, 1980):
 * a key or a press takes K, pointing at something P, and making up one's mind before a deed M.
 */
const KEY_SECONDS = 0.28;
const POINT_SECONDS = 1.1;
const MIND_SECONDS = 1.35;

/** What is done by hand for a step. */
interface Hand {
  /** Presses of a button of the mouse, each with pointing at what is pressed. */
  readonly presses: number;
  /** Keys that are typed beside them. */
  readonly keys: number;
}

const press = (presses: number, keys = 0): Hand => ({ presses, keys });
/** One press on what does it; with a choice, one more on what is chosen. */
const ONE = press(1);
const CHOICE = press(2);
/** A step that tests something, or asks: by hand that is done by looking. */
const LOOK = press(0);

const HANDS: Readonly<Record<string, Hand>> = {
  move: CHOICE,
  copy: CHOICE,
  label: CHOICE,
  marker: CHOICE,
  defer: CHOICE,
  "delete for good": CHOICE,
  "await an answer": CHOICE,
  note: press(1, 12),
  flag: CHOICE,
  "make task": press(3, 12),
  "block time": press(3, 8),
  "make event": press(3, 16),
  "add sender to rule": press(4),
  "block sender": CHOICE,
  "new message": press(1, 10),
  forward: press(1, 10),
  if: LOOK,
  "only when": LOOK,
  ask: LOOK,
  "run macro": LOOK,
};

export interface Effort {
  /** Presses and keys. */
  readonly keys: number;
  readonly seconds: number;
}

const handOf = (step: string): Hand => HANDS[step] ?? ONE;

/** What some steps take by hand on one message. @param steps by what they do */
export function byHand(steps: readonly string[]): Effort {
  let [keys, seconds] = [0, 0];
  for (const step of steps) {
    const { presses, keys: typed } = handOf(step);
    keys += presses + typed;
    // One makes up one's mind once for a deed, not for each of its presses.
    if (presses > 0) seconds += MIND_SECONDS + presses * (POINT_SECONDS + KEY_SECONDS) + typed * KEY_SECONDS;
  }
  return { keys, seconds };
}

/** One key, and the mind made up for it. */
export const BY_KEY: Effort = { keys: 1, seconds: MIND_SECONDS + KEY_SECONDS };

/**
 * What a macro has saved: by hand each message would have been done by itself.
 * @param messages it decided @param presses of its key: less, where it decided many at once
 */
export function saved(steps: readonly string[], messages: number, presses: number): Effort {
  const hand = byHand(steps);
  return {
    keys: Math.max(0, hand.keys * messages - BY_KEY.keys * presses),
    seconds: Math.max(0, hand.seconds * messages - BY_KEY.seconds * presses),
  };
}
