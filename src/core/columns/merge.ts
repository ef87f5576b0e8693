import { NUMBER_COLUMNS, TEXT_COLUMNS, type Columns, type NumberColumn, type TextColumn, type Texts } from "./format";
import { foldedOf, type FoldedColumn } from "./folded";
import { RowIndex } from "./ids";
import { columnsOf } from "./make";
import { joined, pack, settled, textOf } from "./tables";

/** From how many rows on a run is copied as a whole; fewer are there sooner one by one. */
const WORTH_A_COPY = 16;

/** Rows that come one after another from one of two sources, run by run. */
class Runs {
  /** For each run three numbers: 0 or 1 for its source, its first row there, and the one after its last. */
  private held = new Int32Array(3 * 1024);
  private used = 0;
  rows = 0;

  add(from: 0 | 1, row: number): void {
    const { held, used } = this;
    this.rows++;
    if (used > 0 && held[used - 3] === from && held[used - 1] === row) {
      held[used - 1] = row + 1;
      return;
    }
    if (used === held.length) {
      this.held = new Int32Array(used * 2);
      this.held.set(held);
    }
    this.held[used] = from;
    this.held[used + 1] = row;
    this.held[used + 2] = row + 1;
    this.used += 3;
  }

  /** The rows of a column of both. @param shift what is added to what comes from the second */
  gather<T extends Float64Array | Uint32Array | Uint16Array | Uint8Array>(out: T, first: T, second: T, shift = 0): T {
    const { held, used } = this;
    let at = 0;
    for (let run = 0; run < used; run += 3) {
      const source = held[run] === 0 ? first : second;
      const by = held[run] === 0 ? 0 : shift;
      const start = held[run + 1]!;
      const end = held[run + 2]!;
      if (end - start >= WORTH_A_COPY && by === 0) {
        out.set(source.subarray(start, end), at);
        at += end - start;
      } else for (let row = start; row < end; row++) out[at++] = source[row]! + by;
    }
    return out;
  }
}

function assemble(a: Columns, b: Columns, runs: Runs): Columns {
  const count = runs.rows;
  const out: Record<string, unknown> = { count, labelSets: [...a.labelSets, ...b.labelSets] };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    out[name] = runs.gather(
      new NUMBER_COLUMNS[name](count),
      a[name],
      b[name],
      name === "labelSet" ? a.labelSets.length : 0,
    );
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const [ta, tb] = [settled(a.texts[name]), settled(b.texts[name])];
    const index = runs.gather(new Uint32Array(count), a.texts[name].index, b.texts[name].index, ta.ends.length);
    texts[name] = { index, ...joined(ta, tb), added: [] };
    // What has been folded once stays so; of the new part there is little to fold.
    if (a.texts[name].folded) texts[name].folded = joined(a.texts[name].folded, foldedOf(b, name as FoldedColumn));
  }
  return { ...out, texts } as Columns;
}

/**
 * Two indexes as one, ordered by date and then id, as both must be. Where both hold a message the second's
 * row wins: it is newer.
 */
export function mergeColumns(a: Columns, b: Columns): Columns {
  const replaced = new Uint8Array(a.count);
  const where = new RowIndex(a.id, a.count);
  for (let j = 0; j < b.count; j++) {
    const row = where.rowOf(b.id[j]!);
    if (row !== undefined) replaced[row] = 1;
  }
  const before = (i: number, j: number) =>
    a.dateMs[i]! < b.dateMs[j]! || (a.dateMs[i]! === b.dateMs[j]! && a.id[i]! < b.id[j]!);
  const runs = new Runs();
  for (let i = 0, j = 0; i < a.count || j < b.count;) {
    if (j >= b.count || (i < a.count && before(i, j))) {
      if (replaced[i] === 0) runs.add(0, i);
      i++;
    } else runs.add(1, j++);
  }
  return assemble(a, b, runs);
}

/** Columns with their rows ordered by date and then id. */
export function inOrder(columns: Columns): Columns {
  const { count, dateMs, id } = columns;
  const rows = Uint32Array.from({ length: count }, (_, row) => row);
  const compare = (a: number, b: number) => dateMs[a]! - dateMs[b]! || id[a]! - id[b]!;
  if (rows.every((row) => row === 0 || compare(row - 1, row) < 0)) return columns;
  rows.sort(compare);
  const turned = <T extends Float64Array | Uint32Array | Uint16Array | Uint8Array>(from: T, to: T): T => {
    for (let row = 0; row < count; row++) to[row] = from[rows[row]!]!;
    return to;
  };
  const out: Record<string, unknown> = { ...columns };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    out[name] = turned(columns[name], new NUMBER_COLUMNS[name](count));
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const { index } = columns.texts[name];
    texts[name] = { ...columns.texts[name], index: turned(index, new Uint32Array(count)) };
  }
  return { ...out, texts } as Columns;
}

/** The index without some messages. */
export function withoutMessages(columns: Columns, gone: ReadonlySet<number>): Columns {
  const runs = new Runs();
  for (let i = 0; i < columns.count; i++) if (!gone.has(columns.id[i]!)) runs.add(0, i);
  return assemble(columns, columnsOf([]), runs);
}

/** Drops texts that no row holds any more: replaced rows leave theirs behind. */
export function tidied(columns: Columns): Columns {
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const old = settled(columns.texts[name]);
    const { index } = columns.texts[name];
    const number = new Int32Array(old.ends.length).fill(-1);
    const kept: number[] = [];
    const next = index.map((n) => (number[n]! < 0 ? (number[n] = kept.push(n) - 1) : number[n]!));
    if (kept.length === old.ends.length) texts[name] = { ...columns.texts[name], ...old, added: [] };
    else texts[name] = { index: next, ...pack(kept.map((n) => textOf(old, n))), added: [] };
    const { folded } = columns.texts[name];
    if (folded && kept.length !== old.ends.length) texts[name].folded = pack(kept.map((n) => textOf(folded, n)));
  }
  return { ...columns, texts };
}
