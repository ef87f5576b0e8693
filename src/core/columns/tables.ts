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

  write(text: string): void {
    // UTF-8 takes at most three bytes for each UTF-16 unit.
    const most = this.length + text.length * 3;
    if (most > this.held.length) {
      const next = new Uint8Array(Math.max(most, this.held.length * 2));
      next.set(this.held.subarray(0, this.length));
      this.held = next;
    }
    this.length += encoder.encodeInto(text, this.held.subarray(this.length)).written;
  }

  whole = (): Uint8Array => this.held.slice(0, this.length);
}

/** Collects different texts and packs them. */
export class TextTable {
  private readonly seen = new Map<string, number>();
  private readonly bytes = new Bytes();
  private readonly ends: number[] = [];

  number(text: string): number {
    let at = this.seen.get(text);
    if (at === undefined) {
      this.bytes.write(text);
      at = this.ends.push(this.bytes.length) - 1;
      this.seen.set(text, at);
    }
    return at;
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
