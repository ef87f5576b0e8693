/**
 * What is typed while a letter is being opened: until its field is there, the keys go nowhere else, and what they
 * would have written is written once it is. A key that was meant for a letter must never decide about mail.
 */
let text = "";
let listening = false;
let leave = (): void => undefined;

function down(event: KeyboardEvent): void {
  if (event.ctrlKey || event.metaKey || event.isComposing) return;
  const { key } = event;
  if (key === "Escape") {
    // With something written the letter comes first, and is left by another press.
    if (text === "") leave();
  } else if (key === "Backspace") text = text.slice(0, -1);
  else if (key === "Enter") text += "\n";
  else if ([...key].length === 1) text += key;
  else return;
  event.preventDefault();
  event.stopPropagation();
}

/** From now on, what is typed is kept. @param onLeave what Esc does while nothing is typed yet */
export function keepTyped(onLeave: () => void): void {
  text = "";
  leave = onLeave;
  if (listening) return;
  listening = true;
  // Before anybody else hears of it.
  window.addEventListener("keydown", down, true);
}

/** The field is there. @returns what was typed meanwhile */
export function takeTyped(): string {
  if (listening) window.removeEventListener("keydown", down, true);
  listening = false;
  const typed = text;
  text = "";
  return typed;
}
