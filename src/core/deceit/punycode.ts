/** The letters a part of a domain name stands for (RFC 3492), without the "xn--" in front. */

const BASE = 36;
const [T_MIN, T_MAX, SKEW, DAMP] = [1, 26, 38, 700];
const FIRST = 128;
const LARGEST = 0x10ffff;

const digitOf = (code: number): number => {
  if (code >= 0x61 && code <= 0x7a) return code - 0x61;
  return code >= 0x30 && code <= 0x39 ? code - 0x30 + 26 : BASE;
};

function adapt(by: number, count: number, isFirst: boolean): number {
  let delta = Math.floor(by / (isFirst ? DAMP : 2));
  delta += Math.floor(delta / count);
  let k = 0;
  for (; delta > ((BASE - T_MIN) * T_MAX) / 2; k += BASE) delta = Math.floor(delta / (BASE - T_MIN));
  return k + Math.floor(((BASE - T_MIN + 1) * delta) / (delta + SKEW));
}

/** @param text in lower case @returns null where it stands for nothing */
export function decodePunycode(text: string): string | null {
  const split = text.lastIndexOf("-");
  const out = split > 0 ? [...text.slice(0, split)].map((letter) => letter.codePointAt(0)!) : [];
  if (out.some((code) => code >= FIRST)) return null;
  let [n, i, bias] = [FIRST, 0, 72];
  for (let at = split > 0 ? split + 1 : 0; at < text.length;) {
    const before = i;
    for (let weight = 1, k = BASE; ; k += BASE) {
      const digit = at < text.length ? digitOf(text.charCodeAt(at++)) : BASE;
      if (digit >= BASE) return null;
      i += digit * weight;
      const threshold = Math.min(Math.max(k - bias, T_MIN), T_MAX);
      if (digit < threshold) break;
      weight *= BASE - threshold;
      // A part of a name is short: what goes beyond all letters there are stands for none.
      if (weight > LARGEST * LARGEST) return null;
    }
    const count = out.length + 1;
    bias = adapt(i - before, count, before === 0);
    n += Math.floor(i / count);
    if (n > LARGEST) return null;
    i %= count;
    out.splice(i++, 0, n);
  }
  return String.fromCodePoint(...out);
}
