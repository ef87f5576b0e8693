import { useCapturedKeys } from "../input/captured-keys";

export interface PaceActs {
  /** The period of a digit, from 0. */
  readonly period: (number: number) => void;
  /** So many of its lengths back. */
  readonly back: (by: number) => void;
  /** To another figure. */
  readonly figure: (by: number) => void;
  /** To another point of it. */
  readonly point: (by: number) => void;
  readonly open: () => void;
  readonly table: () => void;
  readonly save: () => void;
  readonly place: () => void;
  readonly account: () => void;
  readonly until: () => void;
  readonly review: () => void;
}

/** Points that Page down goes over. */
const MANY = 7;

function actOf({ code, shiftKey }: KeyboardEvent): ((acts: PaceActs) => void) | null {
  const digit = /^Digit([1-6])$/.exec(code)?.[1];
  if (digit) return shiftKey ? null : (acts) => acts.period(Number(digit) - 1);
  const by = code === "ArrowRight" ? 1 : code === "ArrowLeft" ? -1 : 0;
  if (by !== 0) return (acts) => (shiftKey ? acts.back(-by) : acts.point(by));
  if (shiftKey) return null;
  switch (code) {
    case "KeyJ":
    case "ArrowDown":
      return (acts) => acts.figure(1);
    case "KeyK":
    case "ArrowUp":
      return (acts) => acts.figure(-1);
    case "PageDown":
      return (acts) => acts.point(MANY);
    case "PageUp":
      return (acts) => acts.point(-MANY);
    case "Enter":
    case "KeyL":
      return (acts) => acts.open();
    case "KeyT":
      return (acts) => acts.table();
    case "KeyC":
      return (acts) => acts.save();
    case "KeyP":
      return (acts) => acts.place();
    case "KeyA":
      return (acts) => acts.account();
    case "KeyE":
      return (acts) => acts.until();
    case "KeyR":
      return (acts) => acts.review();
    default:
      return null;
  }
}

/** Enter and the arrows mean something else on these. */
const isTaken = ({ target, code }: KeyboardEvent): boolean =>
  target instanceof HTMLSelectElement ||
  target instanceof HTMLInputElement ||
  (code === "Enter" && (target instanceof HTMLButtonElement || target instanceof HTMLAnchorElement));

export const usePaceKeys = (isOn: boolean, acts: PaceActs): void =>
  useCapturedKeys(isOn, (event) => {
    const { target } = event;
    // Out of a choice, back to the figures.
    if ((target instanceof HTMLSelectElement || target instanceof HTMLInputElement) && event.code === "Escape")
      return () => target.blur();
    const act = event.ctrlKey || isTaken(event) ? null : actOf(event);
    return act && (() => act(acts));
  });
