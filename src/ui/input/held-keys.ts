/**
 * Keys pressed while what they are meant for is still on its way: a letter's field, the screen that was gone to.
 * Until it is there they go nowhere else, and then each does what it would have done. A key that was meant for a
 * letter must never decide about mail, and the one that sends it is not lost.
 */
type Awaited = "letter" | "screen";

/** What is waited for, and how it is left by Esc while nothing was pressed yet; null where that is a key as others. */
const awaited = new Map<Awaited, (() => void) | null>();
let held: KeyboardEvent[] = [];
let isListening = false;
/** Set while keys are handed out, one after the other. */
let next: ReturnType<typeof setTimeout> | undefined;

const KEPT = /^(.|Enter|Backspace|Delete|Escape|Shift|Home|End|Page(Up|Down)|Arrow(Up|Down|Left|Right))$/u;

/** Ctrl with a letter is the browser's, but for the key that sends, and for letters that are typed with AltGr. */
const isOthers = (event: KeyboardEvent): boolean =>
  !KEPT.test(event.key) ||
  event.isComposing ||
  event.metaKey ||
  (event.ctrlKey && event.key !== "Enter" && !event.getModifierState("AltGraph"));

function hear(event: KeyboardEvent): void {
  if (!event.isTrusted || isOthers(event)) return;
  const leave = [...awaited.values()].find((way) => way !== null);
  const isFirst = held.length === 0 && next === undefined;
  // Let go of by whom it was pressed for.
  if (event.type === "keyup" && isFirst) return;
  if (event.key === "Escape" && isFirst && leave) leave();
  else held.push(event);
  event.preventDefault();
  event.stopPropagation();
}

function listen(on: boolean): void {
  if (isListening === on) return;
  isListening = on;
  // Before anybody else hears of it.
  for (const type of ["keydown", "keyup"] as const)
    if (on) window.addEventListener(type, hear, true);
    else window.removeEventListener(type, hear, true);
}

/** What the browser itself does at a key of a person's, and at none of a program's. */
function doUsual(target: Element, key: string): void {
  const presses =
    key === "Enter" ? "button, a[href], summary" : key === " " ? "button, summary, [type=checkbox]" : null;
  if (presses !== null && target instanceof HTMLElement && target.matches(presses)) target.click();
  else if (key === "Enter" && target instanceof HTMLInputElement) target.form?.requestSubmit();
  else if (target instanceof HTMLSelectElement && (key === "ArrowDown" || key === "ArrowUp")) {
    const to = target.selectedIndex + (key === "ArrowDown" ? 1 : -1);
    if (to < 0 || to >= target.length) return;
    target.selectedIndex = to;
    target.dispatchEvent(new Event("change", { bubbles: true }));
  }
  // Where there is nothing to write in, these do nothing.
  else if (key === "Backspace") document.execCommand("delete");
  else if ([...key].length === 1) document.execCommand("insertText", false, key);
}

/** Presses a key once more, at the time at which it was. */
function press(stroke: KeyboardEvent): void {
  const target = document.activeElement ?? document.body;
  const { type, key, code, repeat, shiftKey, ctrlKey, altKey, timeStamp } = stroke;
  const what = { key, code, repeat, shiftKey, ctrlKey, altKey, bubbles: true, cancelable: true };
  const again = Object.defineProperty(new KeyboardEvent(type, what), "timeStamp", { value: timeStamp });
  if (target.dispatchEvent(again) && type === "keydown") doUsual(target, key);
}

function handOn(): void {
  next = undefined;
  // A key before this one may have opened what is waited for again: the rest is for that.
  if (awaited.size > 0) return;
  const stroke = held.shift();
  if (stroke) press(stroke);
  // Letting go of a key waits for nothing.
  while (awaited.size === 0 && held[0]?.type === "keyup") press(held.shift()!);
  // What a key changed is drawn before the next, as with a hand.
  if (held.length > 0) next = setTimeout(handOn);
  else if (awaited.size === 0) listen(false);
}

/** From now on keys wait for that. @param leave what Esc does while no other key was pressed */
export function holdKeys(what: Awaited, leave: (() => void) | null): void {
  awaited.set(what, leave);
  listen(true);
}

/** It is there, with the focus where it belongs, or nobody waits for it any more. */
export function letKeysGo(what: Awaited): void {
  if (!awaited.delete(what) || awaited.size > 0) return;
  if (held.length === 0) listen(false);
  // Not while it is still being put there.
  else next ??= setTimeout(handOn);
}

/** It never came: what was meant for it is meant for nothing else. */
export function dropKeys(what: Awaited): void {
  held = [];
  letKeysGo(what);
}
