import { fold } from "../narrow";

/** Where a jump leads, as a place in the queue, or why nowhere. */
export type Jump = { readonly ok: true; readonly place: number } | { readonly ok: false; readonly why: string };

/**
 * "57" is the 57th message of the queue; anything else is looked for from the place behind the present one on, and
 * from the beginning behind the end.
 * @param textAt what a message is found by, at a place of the queue
 */
export function jumpIn(typed: string, length: number, from: number, textAt: (place: number) => string): Jump {
  const text = typed.trim();
  if (/^\d{1,7}$/.test(text)) {
    const number = Number(text);
    if (number >= 1 && number <= length) return { ok: true, place: number - 1 };
    return {
      ok: false,
      why: length === 0 ? "There is no message here." : `There are ${length}: write 1 to ${length}.`,
    };
  }
  const needle = fold(text).trimEnd();
  if (needle.trim() === "") return { ok: false, why: "Write a number, or a word of a sender or subject." };
  for (let step = 1; step <= length; step++) {
    const place = (from + step) % length;
    if (fold(textAt(place)).includes(needle)) return { ok: true, place };
  }
  return { ok: false, why: `No message of this pass has "${text}" in its sender or subject.` };
}
