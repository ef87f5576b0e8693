import { useCapturedKeys } from "../input/captured-keys";
import { VIEWS, type ViewName } from "./words";

export interface AgendaActs {
  readonly show: (view: ViewName) => void;
  /** So many weeks, days or months on. */
  readonly turn: (by: number) => void;
  readonly today: () => void;
  readonly fit: () => void;
  readonly remove: () => void;
  /** Moves what has the focus, by minutes of its clock. */
  readonly move: (minutes: number) => void;
  /** Makes it longer, or shorter. */
  readonly stretch: (minutes: number) => void;
}

const STEP = 15;
const DAY = 24 * 60;

/** What keys do here beside those of every screen. */
function actOf({ code, shiftKey, ctrlKey }: KeyboardEvent): ((acts: AgendaActs) => void) | null {
  if (shiftKey) {
    const by = { ArrowDown: STEP, ArrowUp: -STEP, ArrowRight: DAY, ArrowLeft: -DAY }[code];
    return by === undefined ? null : (acts) => acts.move(by);
  }
  if (ctrlKey) {
    const by = { ArrowDown: STEP, ArrowUp: -STEP }[code];
    return by === undefined ? null : (acts) => acts.stretch(by);
  }
  const view = VIEWS[Number(/^Digit([123])$/.exec(code)?.[1] ?? 0) - 1];
  if (view) return (acts) => acts.show(view);
  switch (code) {
    case "Digit0":
      return (acts) => acts.today();
    case "ArrowRight":
    case "PageDown":
      return (acts) => acts.turn(1);
    case "ArrowLeft":
    case "PageUp":
      return (acts) => acts.turn(-1);
    case "KeyF":
      return (acts) => acts.fit();
    case "Delete":
      return (acts) => acts.remove();
    default:
      return null;
  }
}

const isTyped = (target: EventTarget | null): boolean =>
  (target instanceof HTMLInputElement && target.type !== "checkbox") ||
  target instanceof HTMLSelectElement ||
  target instanceof HTMLTextAreaElement;

export const useAgendaKeys = (isOn: boolean, acts: AgendaActs): void =>
  useCapturedKeys(isOn, (event) => {
    const act = isTyped(event.target) ? null : actOf(event);
    return act && (() => act(acts));
  });
