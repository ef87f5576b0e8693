/**
 * Mailbox files (RFC 4155 and what is met in practice). Four ways are in use to keep a body line that begins
 * with "From " from looking like the start of the next message:
 *
 *   o    such a line gets ">" before it
 *   rd   such a line, with or without ">" before it, gets one more ">"
 *   cl   as o, and a Content-Length header says how long the body is
 *   cl2  no quoting; Content-Length alone tells
 *
 * A Content-Length is believed only when another message, or the end, really follows there. Without one, a
 * message ends at an empty line before a line that looks like "From somebody at some date".
 */
export interface MboxItem {
  /** Where the message's "From " line begins, in bytes from the start of the file. */
  readonly offset: number;
  /** The first byte after the message: an import that stopped goes on from here. */
  readonly end: number;
  /** The message itself, unquoted. */
  readonly raw: Uint8Array;
}

export interface MboxProblem {
  readonly offset: number;
  readonly reason: "before-first-message" | "too-large";
  readonly bytes: number;
}

/** A message past this is listed as a problem instead of being held in memory. */
export const MOST_MESSAGE_BYTES = 64 * 1024 * 1024;
/** Headers longer than this are not searched for a Content-Length. */
const MOST_HEADER_BYTES = 1024 * 1024;

const LF = 10;
const CR = 13;
const GT = 62;
const FROM = [70, 114, 111, 109, 32];

const isFromAt = (data: Uint8Array, at: number): boolean => FROM.every((byte, i) => data[at + i] === byte);

/**
 * "From " and then a sender, a clock time and a year: prose that begins with "From " has no such pair. The
 * sender may be missing or hold spaces; the zone may stand before or after the year.
 */
const SEPARATOR = /^From .{0,400}\b\d{1,2}:\d{2}(:\d{2})?\b.{0,40}\b(19|20)\d{2}\b/;
/** Some writers put nothing but the sender after "From "; allowed for the first line of a file only. */
const BARE_SEPARATOR = /^From \S+\s*$/;

const LONGEST_SEPARATOR = 512;

function lineAt(data: Uint8Array, at: number): string {
  let end = at;
  const most = Math.min(data.length, at + LONGEST_SEPARATOR);
  while (end < most && data[end] !== LF) end++;
  return Buffer.from(data.buffer, data.byteOffset + at, end - at).toString("latin1");
}

const isSeparatorAt = (data: Uint8Array, at: number): boolean => isFromAt(data, at) && SEPARATOR.test(lineAt(data, at));

const afterLine = (data: Uint8Array, at: number): number => {
  const end = data.indexOf(LF, at);
  return end < 0 ? -1 : end + 1;
};

/** Where the body begins: after the first empty line. -1 when the header goes on past the data. */
function bodyAt(data: Uint8Array, at: number): number {
  for (let line = at; line < data.length && line - at < MOST_HEADER_BYTES;) {
    if (data[line] === LF) return line + 1;
    if (data[line] === CR && data[line + 1] === LF) return line + 2;
    const next = afterLine(data, line);
    if (next < 0) return -1;
    line = next;
  }
  return -1;
}

function contentLength(data: Uint8Array, at: number, body: number): number | null {
  const header = Buffer.from(data.buffer, data.byteOffset + at, body - at).toString("latin1");
  const found = /^content-length:[ \t]*(\d{1,12})[ \t]*\r?$/im.exec(header);
  return found ? Number(found[1]) : null;
}

/** The length of the line end at that place: 0, 1 or 2 bytes. */
const lineEndAt = (data: Uint8Array, at: number): number =>
  data[at] === LF ? 1 : data[at] === CR && data[at + 1] === LF ? 2 : 0;

/** Takes one ">" from every line of the body that is quoted; the same array when none is. */
function unquote(raw: Uint8Array, body: number): Uint8Array {
  const drops: number[] = [];
  for (let line = body; line >= 0 && line < raw.length; line = afterLine(raw, line)) {
    if (raw[line] !== GT) continue;
    let at = line;
    while (raw[at] === GT) at++;
    if (isFromAt(raw, at)) drops.push(line);
  }
  if (drops.length === 0) return raw;
  const out = new Uint8Array(raw.length - drops.length);
  let from = 0;
  drops.forEach((drop, i) => {
    out.set(raw.subarray(from, drop), from - i);
    from = drop + 1;
  });
  out.set(raw.subarray(from), from - drops.length);
  return out;
}

/** True when a body line begins with a bare "From ": only a file without quoting has such lines. */
function hasBareFrom(raw: Uint8Array, body: number): boolean {
  for (let line = body; line >= 0 && line < raw.length; line = afterLine(raw, line))
    if (isFromAt(raw, line)) return true;
  return false;
}

type Found = { readonly rawEnd: number; readonly next: number; readonly exact: boolean } | "more";

/** Splits a stream of bytes into messages, holding no more than one message and the chunk it ends in. */
export class MboxSplitter {
  private data: Uint8Array = new Uint8Array(0);
  /** File offset of data[0]. */
  private base: number;
  private started: boolean;
  /** Where to go on looking for the separator, so that a long message is scanned once. */
  private scanned = 0;
  private skipping: number | null = null;
  /** A file in which one message with a length holds a bare "From " line quotes in none of them. */
  private unquotedFile = false;
  readonly problems: MboxProblem[] = [];

  /** @param offset where in the file the first byte pushed stands; past 0 it must be the start of a message */
  constructor(offset = 0) {
    this.base = offset;
    this.started = offset > 0;
  }

  /** Messages completed by these bytes. */
  *push(chunk: Uint8Array): Generator<MboxItem> {
    const joined = new Uint8Array(this.data.length + chunk.length);
    joined.set(this.data);
    joined.set(chunk, this.data.length);
    this.data = joined;
    yield* this.take(false);
  }

  /** What is left at the end of the file. */
  *finish(): Generator<MboxItem> {
    yield* this.take(true);
  }

  private drop(bytes: number): void {
    this.data = this.data.subarray(bytes);
    this.base += bytes;
    this.scanned = 0;
  }

  private *take(ended: boolean): Generator<MboxItem> {
    if (!this.started && !this.start(ended)) return;
    while (this.data.length > 0) {
      const first = afterLine(this.data, 0);
      if (first < 0 && !ended) return;
      const begin = first < 0 ? this.data.length : first;
      const found = this.find(begin, ended);
      if (found === "more") {
        if (this.data.length > MOST_MESSAGE_BYTES) this.skipLarge();
        return;
      }
      if (this.skipping !== null) {
        this.problems.push({
          offset: this.skipping,
          reason: "too-large",
          bytes: this.base + found.rawEnd - this.skipping,
        });
        this.skipping = null;
      } else yield this.item(begin, found);
      this.drop(found.next);
    }
  }

  /** Finds the first message; anything before it is listed as a problem. False: more bytes are needed. */
  private start(ended: boolean): boolean {
    const plain = lineAt(this.data, 0);
    if (!ended && this.data.length < LONGEST_SEPARATOR && afterLine(this.data, 0) < 0) return false;
    let at = 0;
    if (!isSeparatorAt(this.data, 0) && !BARE_SEPARATOR.test(plain)) {
      for (at = afterLine(this.data, 0); at > 0 && !isSeparatorAt(this.data, at);) at = afterLine(this.data, at);
      if (at <= 0 && !ended) return false;
      const bytes = at <= 0 ? this.data.length : at;
      if (Buffer.from(this.data.subarray(0, bytes)).toString("latin1").trim() !== "")
        this.problems.push({ offset: this.base, reason: "before-first-message", bytes });
      this.drop(bytes);
    }
    this.started = true;
    return true;
  }

  private find(begin: number, ended: boolean): Found {
    const body = this.skipping === null ? bodyAt(this.data, begin) : -1;
    const length = body < 0 ? null : contentLength(this.data, begin, body);
    if (length !== null && length <= MOST_MESSAGE_BYTES) {
      const end = body + length;
      // The separator behind it must be in sight before the length is believed.
      if (end + LONGEST_SEPARATOR > this.data.length && !ended) return "more";
      const gap = lineEndAt(this.data, end);
      if (end <= this.data.length && (end + gap >= this.data.length || isSeparatorAt(this.data, end + gap)))
        return { rawEnd: end, next: Math.min(end + gap, this.data.length), exact: true };
      if (end <= this.data.length && isSeparatorAt(this.data, end)) return { rawEnd: end, next: end, exact: true };
    }
    return this.findSeparator(begin, ended);
  }

  private findSeparator(begin: number, ended: boolean): Found {
    let line = Math.max(begin, this.scanned);
    for (;;) {
      const inSight = ended || line + LONGEST_SEPARATOR <= this.data.length;
      if (!inSight) {
        this.scanned = line;
        return "more";
      }
      if (line >= this.data.length) {
        const end = this.data.length;
        return { rawEnd: end - (line > begin ? this.emptyLineBefore(end, begin) : 0), next: end, exact: false };
      }
      if (isFromAt(this.data, line) && this.emptyLineBefore(line, begin) && isSeparatorAt(this.data, line))
        return { rawEnd: line - (line === begin ? 0 : this.emptyLineBefore(line, begin)), next: line, exact: false };
      const next = afterLine(this.data, line);
      if (next < 0 && !ended) {
        this.scanned = line;
        return "more";
      }
      line = next < 0 ? this.data.length : next;
    }
  }

  /** The bytes of the empty line before that one; 0 when there is none. An empty message counts as one. */
  private emptyLineBefore(line: number, begin: number): number {
    if (line === begin) return 1;
    const at = line - 1;
    if (this.data[at] !== LF) return 0;
    if (this.data[at - 1] === LF) return 1;
    return this.data[at - 1] === CR && this.data[at - 2] === LF ? 2 : 0;
  }

  private item(begin: number, found: Exclude<Found, "more">): MboxItem {
    const raw = this.data.slice(begin, found.rawEnd);
    const body = Math.max(0, bodyAt(raw, 0));
    if (found.exact && hasBareFrom(raw, body)) this.unquotedFile = true;
    const quoted = !(found.exact && this.unquotedFile);
    return { offset: this.base, end: this.base + found.next, raw: quoted ? unquote(raw, body) : raw };
  }

  /** Lets go of a message that is too large, but for enough of its end to see the next separator. */
  private skipLarge(): void {
    this.skipping ??= this.base;
    const keep = this.data.lastIndexOf(LF, this.scanned - 3);
    if (keep > 0) {
      const scanned = this.scanned - keep;
      this.drop(keep);
      this.scanned = scanned;
    }
  }
}

/**
 * A message as it stands in a mailbox file: the separator, the body quoted as "rd", which is the one way that
 * can be taken back exactly, and the empty line after it.
 * @param sender the address for the separator line
 */
export function mboxEntry(raw: Uint8Array, sender: string, date: Date): Uint8Array {
  const safeSender = /^[!-~]+$/.test(sender) ? sender : "MAILER-DAEMON";
  const stamp = date.toUTCString().replace(/^(\w+), (\d+) (\w+) (\d+) (.+) GMT$/, "$1 $3 $2 $5 $4");
  const body = Math.max(0, bodyAt(raw, 0));
  const lines: number[] = [];
  for (let line = body; line >= 0 && line < raw.length; line = afterLine(raw, line)) {
    let at = line;
    while (raw[at] === GT) at++;
    if (isFromAt(raw, at)) lines.push(line);
  }
  const head = Buffer.from(`From ${safeSender} ${stamp}\n`, "latin1");
  const pieces: Uint8Array[] = [head];
  let from = 0;
  for (const line of lines) {
    pieces.push(raw.subarray(from, line), Buffer.from(">"));
    from = line;
  }
  // The format needs a line end before the empty line; a message that lacks one cannot do without.
  pieces.push(raw.subarray(from), Buffer.from(raw.at(-1) === LF ? "\n" : "\n\n"));
  return Buffer.concat(pieces);
}
