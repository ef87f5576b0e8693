import { NUMBER_COLUMNS, TEXT_COLUMNS, type Columns, type NumberColumn, type TextColumn, type Texts } from "./format";
import { settled } from "./tables";

/**
 * The mailbox's index as bytes: what the server sends, and what a browser keeps between visits. 100,000
 * messages are some ten megabytes and are there in a few milliseconds, where objects take ten times both.
 *
 * Layout, little-endian: u32 length of the head; the head as JSON, padded to 8 bytes; then the sections in
 * the head's order, each padded to 8 bytes: the number columns, then for each text column the numbers of its
 * rows' texts, where each text ends, and the texts; then for those that the head names the same two of the
 * folded texts.
 */
export const COLUMNS_VERSION = 7;

/** What a part of the index says beside its rows. */
export interface About {
  /** The last write that is in it for sure; events after it must be applied. */
  readonly seq: number;
  /** Where the next, older part begins; null at the end. */
  readonly next: number | null;
  /** Messages that are no more, where the part holds what changed. */
  readonly gone: readonly number[];
}

export interface Index extends About {
  readonly columns: Columns;
}

interface Head {
  readonly v: number;
  readonly about: About;
  readonly count: number;
  readonly labelSets: (readonly number[])[];
  readonly folded: readonly TextColumn[];
  readonly lengths: readonly number[];
}

const padded = (bytes: number): number => Math.ceil(bytes / 8) * 8;
const bytesOf = (array: ArrayBufferView) => new Uint8Array(array.buffer, array.byteOffset, array.byteLength);

export function encodeIndex({ columns, ...about }: Index): Uint8Array {
  const sections = (Object.keys(NUMBER_COLUMNS) as NumberColumn[]).map((name) => bytesOf(columns[name]));
  for (const name of TEXT_COLUMNS) {
    const texts = columns.texts[name];
    const all = settled(texts);
    sections.push(bytesOf(texts.index), bytesOf(all.ends), all.bytes);
  }
  const folded = TEXT_COLUMNS.filter((name) => columns.texts[name].folded);
  for (const name of folded) {
    const { ends, bytes } = columns.texts[name].folded!;
    sections.push(bytesOf(ends), bytes);
  }
  const head: Head = {
    v: COLUMNS_VERSION,
    about,
    folded,
    count: columns.count,
    labelSets: columns.labelSets,
    lengths: sections.map((s) => s.length),
  };
  const headBytes = new TextEncoder().encode(JSON.stringify(head));
  const start = padded(4 + headBytes.length);
  const out = new Uint8Array(start + sections.reduce((sum, s) => sum + padded(s.length), 0));
  new DataView(out.buffer).setUint32(0, headBytes.length, true);
  out.set(headBytes, 4);
  let at = start;
  for (const section of sections) {
    out.set(section, at);
    at += padded(section.length);
  }
  return out;
}

/** The columns are views of the buffer. @throws RangeError for bytes that are no index of this version. */
export function decodeIndex(buffer: ArrayBuffer): Index {
  const headLength = buffer.byteLength < 4 ? 0 : new DataView(buffer).getUint32(0, true);
  if (headLength === 0 || headLength + 4 > buffer.byteLength) throw new RangeError("not a column index");
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, headLength))) as Head;
  if (head.v !== COLUMNS_VERSION) throw new RangeError(`column index of version ${head.v}, this is ${COLUMNS_VERSION}`);
  let at = padded(4 + headLength);
  let section = 0;
  const next = (): [offset: number, length: number] => {
    const offset = at;
    const length = head.lengths[section++] ?? 0;
    at += padded(length);
    if (offset + length > buffer.byteLength) throw new RangeError("the column index is cut short");
    return [offset, length];
  };
  const columns: Record<string, unknown> = { count: head.count, labelSets: head.labelSets };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    columns[name] = new NUMBER_COLUMNS[name](buffer, next()[0], head.count);
  const numbers = () => {
    const [offset, length] = next();
    return new Uint32Array(buffer, offset, length / 4);
  };
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const [index, ends] = [numbers(), numbers()];
    texts[name] = { index, ends, bytes: new Uint8Array(buffer, ...next()), added: [] };
  }
  for (const name of head.folded) {
    const ends = numbers();
    texts[name].folded = { ends, bytes: new Uint8Array(buffer, ...next()) };
  }
  return { ...head.about, columns: { ...columns, texts } as Columns };
}
