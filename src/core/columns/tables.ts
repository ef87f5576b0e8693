/** Different texts, end to end as UTF-8: the n-th ends where `ends` says. A mailbox's are too many to be strings. */
export interface Packed {
  readonly bytes: Uint8Array;
  readonly ends: Uint32Array;
}

/** Collects different values and numbers them in the order they come. */
export class Table<T> {
  readonly values: T[] = [];
  private readonly seen = new Map<string, number>();
  number(key: string, value: T): number {
    let at = this.seen.get(key);
    if (at === undefined) {
      at = this.values.push(value) - 1;
      this.seen.set(key, at);
    }
    return at;
  }
}

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/** Bytes that grow as they are written to. */
class Bytes {
  private held = new Uint8Array(1024);
  length = 0;

  private grow(most: number): void {
    if (most <= this.held.length) return;
    const next = new Uint8Array(Math.max(most, this.held.length * 2));
    next.set(this.held.subarray(0, this.length));
    this.held = next;
  }

  write(text: string): void {
    // UTF-8 takes at most three bytes for each UTF-16 unit.
    this.grow(this.length + text.length * 3);
    this.length += encoder.encodeInto(text, this.held.subarray(this.length)).written;
  }

  /** Short runs of bytes: one by one they are there sooner than by a view made for them. */
  copy(bytes: Uint8Array, start: number, end: number): void {
    this.grow(this.length + end - start);
    const { held } = this;
    for (let at = start; at < end; at++) held[this.length++] = bytes[at]!;
  }

  /** Whether what stands from a place on is the same. */
  isAt(place: number, bytes: Uint8Array, start: number, end: number): boolean {
    const { held } = this;
    const by = place - start;
    for (let i = start; i < end; i++) if (held[by + i] !== bytes[i]) return false;
    return true;
  }

  whole = (): Uint8Array => this.held.slice(0, this.length);
}

/** Mixes bytes into 32 bits, four at a time (after FNV-1a, whose shape it has). */
function hashOf(bytes: Uint8Array, start: number, end: number): number {
  let hash = 0x11c9dc5 ^ (end - start);
  let at = start;
  for (; at + 4 <= end; at += 4) {
    const four = bytes[at]! | (bytes[at + 1]! << 8) | (bytes[at + 2]! << 16) | (bytes[at + 3]! << 24);
    hash = Math.imul(hash ^ four, 0x01000193);
    hash ^= hash >>> 15;
  }
  for (; at < end; at++) hash = Math.imul(hash ^ bytes[at]!, 0x01000193);
  return hash ^ (hash >>> 13);
}

/** Collects different texts as UTF-8 and packs them: an open hash table over their bytes. */
export class TextTable {
  private slots = new Int32Array(64);
  private readonly hashes: number[] = [];
  private readonly bytes = new Bytes();
  private readonly ends: number[] = [];
  /** Of the text that most rows of most columns hold: none. */
  private blank = -1;

  number(text: string): number {
    const bytes = encoder.encode(text);
    return this.numberOf(bytes, 0, bytes.length);
  }

  /** The number of the text that stands there. */
  numberOf(bytes: Uint8Array, start: number, end: number): number {
    if (start === end && this.blank >= 0) return this.blank;
    const hash = hashOf(bytes, start, end);
    const mask = this.slots.length - 1;
    let slot = hash & mask;
    for (; this.slots[slot] !== 0; slot = (slot + 1) & mask) {
      const n = this.slots[slot]! - 1;
      const from = n === 0 ? 0 : this.ends[n - 1]!;
      if (this.hashes[n] !== hash || this.ends[n]! - from !== end - start) continue;
      if (this.bytes.isAt(from, bytes, start, end)) return n;
    }
    if (start === end) this.blank = this.ends.length;
    this.bytes.copy(bytes, start, end);
    this.hashes.push(hash);
    this.slots[slot] = this.ends.push(this.bytes.length);
    if (this.ends.length * 2 > this.slots.length) this.spread();
    return this.ends.length - 1;
  }

  private spread(): void {
    const slots = new Int32Array(this.slots.length * 4);
    this.hashes.forEach((hash, n) => {
      let slot = hash & (slots.length - 1);
      while (slots[slot] !== 0) slot = (slot + 1) & (slots.length - 1);
      slots[slot] = n + 1;
    });
    this.slots = slots;
  }

  packed = (): Packed => ({ bytes: this.bytes.whole(), ends: Uint32Array.from(this.ends) });
}

/** Texts packed as they come, also where some are the same. */
export function pack(texts: Iterable<string>): Packed {
  const bytes = new Bytes();
  const ends: number[] = [];
  for (const text of texts) {
    bytes.write(text);
    ends.push(bytes.length);
  }
  return { bytes: bytes.whole(), ends: Uint32Array.from(ends) };
}

/** The n-th of packed texts; "" for one that is not there. */
export function textOf({ bytes, ends }: Packed, n: number): string {
  const from = n === 0 ? 0 : ends[n - 1]!;
  const to = ends[n] ?? from;
  return from === to ? "" : decoder.decode(bytes.subarray(from, to));
}

/** Two tables as one, the second's texts numbered on from the first's. */
export function joined(a: Packed, b: Packed): Packed {
  const bytes = new Uint8Array(a.bytes.length + b.bytes.length);
  bytes.set(a.bytes);
  bytes.set(b.bytes, a.bytes.length);
  const ends = new Uint32Array(a.ends.length + b.ends.length);
  ends.set(a.ends);
  for (let i = 0; i < b.ends.length; i++) ends[a.ends.length + i] = b.ends[i]! + a.bytes.length;
  return { bytes, ends };
}

/** A text column with those written since packed among the others. */
export const settled = (texts: Packed & { readonly added: readonly string[] }): Packed =>
  texts.added.length === 0 ? texts : joined(texts, pack(texts.added));
