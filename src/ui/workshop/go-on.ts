/** What can be gone on to in a macro: fields of its steps, and where the next step is added. */
const STOPS = "[data-field], [data-add-step]";

/** Puts the focus on what comes next in the macro; what is left is stored by that. */
export function goOn(from: HTMLElement): void {
  const macro = from.closest('[aria-label="Macro"]');
  const stops = [...(macro?.querySelectorAll<HTMLElement>(STOPS) ?? [])];
  const next = stops[stops.indexOf(from) + 1];
  if (next) next.focus();
  else from.blur();
}

/** Puts the focus into a step that was just added: its first field, or if it has none, where the next one is added. */
export function enterStep(path: string, under: string): void {
  // What the step asks for first keeps the keyboard.
  if (document.querySelector("[role=dialog]")) return;
  const card = document.querySelector<HTMLElement>(`[data-step="${path}"]`);
  const first = card?.querySelector<HTMLElement>("[data-field]");
  (first ?? document.querySelector<HTMLElement>(`[data-add-step="${under}"]`))?.focus();
}
