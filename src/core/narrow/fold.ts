/**
 * Text as it is compared: no case, no accents, every run of anything but letters and digits one space, and a
 * space at both ends, so that " hut" finds a word that begins so and " hut " the whole word. The same
 * function makes what PostgreSQL stores and what the browser holds, so both find the same messages.
 */
export function fold(text: string): string {
  const plain = /^[\x20-\x7e]*$/.test(text) ? text : text.normalize("NFKD").replace(/\p{M}+/gu, "");
  const words = plain
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, " ")
    .trim();
  return words === "" ? " " : ` ${words} `;
}
