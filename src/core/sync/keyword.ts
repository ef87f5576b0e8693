/**
 * Labels and markers as keywords of a mail server. A keyword is an atom (RFC 9051, section 9): printable ASCII
 * without ( ) { } % * " \ ] and blanks. Names keep the letters that may stand there; every other byte of their UTF-8
 * is written as "=" and two hexadecimal digits, and so is "=" itself, so that each name has one keyword and back.
 */

/** Servers keep keywords up to some length; longer ones would make a whole STORE fail. */
export const LONGEST_KEYWORD = 100;

const PLAIN = /^[A-Za-z0-9._-]$/;

/** @returns null where no server would keep it */
export function keywordOf(name: string): string | null {
  let out = "";
  for (const byte of new TextEncoder().encode(name)) {
    const char = String.fromCharCode(byte);
    out += PLAIN.test(char) ? char : `=${byte.toString(16).toUpperCase().padStart(2, "0")}`;
  }
  return out === "" || out.length > LONGEST_KEYWORD ? null : out;
}

/** The name a keyword was made from, where it stands for no label there is; else as it is. */
export function nameOfKeyword(word: string): string {
  try {
    return decodeURIComponent(word.replaceAll("%", "%25").replace(/=([0-9A-F]{2})/g, "%$1"));
  } catch {
    return word;
  }
}

const MARKER = "marker-";

/** @param letter of the marker */
export const markerKeyword = (letter: string): string => `${MARKER}${letter.toUpperCase()}`;

export const isMarkerKeyword = (word: string): boolean => /^marker-[A-Z]$/i.test(word);
