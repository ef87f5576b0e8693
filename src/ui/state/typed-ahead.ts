/**
 * What is typed while a letter is being opened: until its field is there, the keys go nowhere else, and afterwards
 * each does what it would have done then. A key that was meant for a letter must never decide about mail, and the one
 * that sends it is not lost.
 */
let held: KeyboardEvent[] = [];
let isListening = false;
let isHanding = false;
let leave = (): void => undefined;

/** Ctrl with a letter is the browser's, but for the key that sends, and for letters that are typed with AltGr. */
const isOthers = (event: KeyboardEvent): boolean =>
  event.isComposing ||
  event.metaKey ||
  (event.ctrlKey && event.key !== "Enter" && !event.getModifierState("AltGraph")) ||
  ([...event.key].length > 1 && !["Enter", "Backspace", "Escape"].includes(event.key));

function hear(event: KeyboardEvent): void {
  if (!event.isTrusted || isOthers(event)) return;
  if (event.type === "keydown") {
    // With something written the letter comes first, and is left once it is there.
    if (event.key === "Escape" && held.length === 0 && !isHanding) leave();
    else held.push(event);
  } else if (held.length > 0) held.push(event);
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

/** From now on, what is typed is kept. @param onLeave what Esc does while nothing is typed yet */
export function keepTyped(onLeave: () => void): void {
  leave = onLeave;
  isHanding = false;
  listen(true);
}

/** Nobody is to have what was typed. */
export function dropTyped(): void {
  held = [];
  listen(false);
}

/** Presses a key once more, at the time at which it was. */
function press(stroke: KeyboardEvent): void {
  const target = document.activeElement ?? document.body;
  const { type, key, code, repeat, shiftKey, ctrlKey, altKey, timeStamp } = stroke;
  const what = { key, code, repeat, shiftKey, ctrlKey, altKey, bubbles: true, cancelable: true };
  const again = Object.defineProperty(new KeyboardEvent(type, what), "timeStamp", { value: timeStamp });
  if (!target.dispatchEvent(again) || type !== "keydown") return;
  // What the browser itself does at a key that somebody presses: these write nothing where there is nothing to write in.
  if (key === "Backspace") document.execCommand("delete");
  else if ([...key].length === 1) document.execCommand("insertText", false, key);
}

/** The field is there, and has the focus. */
export function handTyped(): void {
  if (!isListening || isHanding) return;
  isHanding = true;
  const next = (): void => {
    // A key opened the next letter: what comes after it is that one's.
    if (!isHanding) return;
    const stroke = held.shift();
    if (stroke === undefined) {
      isHanding = false;
      return listen(false);
    }
    press(stroke);
    // What it changed is drawn before the next, as with a hand.
    setTimeout(next);
  };
  // Not while the field is still being put there.
  setTimeout(next);
}
