/**
 * Mail ends its lines with CRLF on the wire (RFC 5322, section 2.1) and, mostly, with LF in files. One message is the
 * same source in either form.
 */

const LF = 10;
const CR = 13;

/** How many line ends there are of either kind. */
function count(raw: Uint8Array): { readonly crlf: number; readonly lf: number } {
  let [crlf, lf] = [0, 0];
  for (let at = raw.indexOf(LF); at >= 0; at = raw.indexOf(LF, at + 1))
    if (at > 0 && raw[at - 1] === CR) crlf++;
    else lf++;
  return { crlf, lf };
}

/** Bytes of a source on the wire, as servers say them (RFC 3501, RFC822.SIZE). */
export const wireSize = (raw: Uint8Array): number => raw.length + count(raw).lf;

/** @param end of every line */
function endedWith(raw: Uint8Array, end: readonly number[], size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  let from = 0;
  for (let at = raw.indexOf(LF); at >= 0; at = raw.indexOf(LF, at + 1)) {
    const line = raw.subarray(from, at > from && raw[at - 1] === CR ? at - 1 : at);
    out.set(line, to);
    out.set(end, to + line.length);
    to += line.length + end.length;
    from = at + 1;
  }
  out.set(raw.subarray(from), to);
  return out;
}

/** A source with its lines ended in other ways: with LF all of them, and with CRLF, as far as it is not that itself. */
export function otherEnds(raw: Uint8Array): Uint8Array[] {
  const { crlf, lf } = count(raw);
  return [
    ...(crlf > 0 ? [endedWith(raw, [LF], raw.length - crlf)] : []),
    ...(lf > 0 ? [endedWith(raw, [CR, LF], raw.length + lf)] : []),
  ];
}
