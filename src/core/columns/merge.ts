import {
  columnsOf,
  NUMBER_COLUMNS,
  TEXT_COLUMNS,
  type Columns,
  type NumberColumn,
  type TextColumn,
  type Texts,
} from "./format";
import { foldedOf, type FoldedColumn } from "./folded";
import { RowIndex } from "./ids";
import { joined, pack, settled, textOf } from "./tables";

/** Rows that come one after another from one of two sources: whole runs are copied at a time. */
interface Run {
  readonly from: 0 | 1;
  readonly start: number;
  readonly end: number;
}

function assemble(sources: readonly [Columns, Columns], runs: readonly Run[]): Columns {
  const [a, b] = sources;
  const count = runs.reduce((sum, run) => sum + run.end - run.start, 0);
  const numbers = <T extends Float64Array | Uint32Array | Uint8Array>(
    out: T,
    pick: (c: Columns) => T,
    shift = 0,
  ): T => {
    let at = 0;
    for (const { from, start, end } of runs) {
      const source = pick(sources[from]);
      if (end - start === 1) out[at] = source[start]!;
      else out.set(source.subarray(start, end), at);
      const last = at + end - start;
      if (from === 1 && shift > 0) for (; at < last; at++) out[at]! += shift;
      at = last;
    }
    return out;
  };
  const out: Record<string, unknown> = { count, labelSets: [...a.labelSets, ...b.labelSets] };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    out[name] = numbers(new NUMBER_COLUMNS[name](count), (c) => c[name], name === "labelSet" ? a.labelSets.length : 0);
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const [ta, tb] = [settled(a.texts[name]), settled(b.texts[name])];
    const index = numbers(new Uint32Array(count), (c) => c.texts[name].index, ta.ends.length);
    texts[name] = { index, ...joined(ta, tb), added: [] };
    // What has been folded once stays so; of the new part there is little to fold.
    if (a.texts[name].folded) texts[name].folded = joined(a.texts[name].folded, foldedOf(b, name as FoldedColumn));
  }
  return { ...out, texts } as Columns;
}

class Runs {
  readonly list: Run[] = [];
  private open: { from: 0 | 1; start: number; end: number } | null = null;
  add(from: 0 | 1, row: number): void {
    if (this.open && this.open.from === from && this.open.end === row) this.open.end++;
    else {
      this.open = { from, start: row, end: row + 1 };
      this.list.push(this.open);
    }
  }
}

/**
 * Two indexes as one, ordered by date and then id, as both must be. Where both hold a message the second's
 * row wins: it is newer.
 */
export function mergeColumns(a: Columns, b: Columns): Columns {
  const replaced = new Set<number>();
  const where = new RowIndex(a.id, a.count);
  for (let j = 0; j < b.count; j++) {
    const row = where.rowOf(b.id[j]!);
    if (row !== undefined) replaced.add(row);
  }
  const before = (i: number, j: number) =>
    a.dateMs[i]! < b.dateMs[j]! || (a.dateMs[i]! === b.dateMs[j]! && a.id[i]! < b.id[j]!);
  const runs = new Runs();
  for (let i = 0, j = 0; i < a.count || j < b.count;) {
    if (j >= b.count || (i < a.count && before(i, j))) {
      if (!replaced.has(i)) runs.add(0, i);
      i++;
    } else runs.add(1, j++);
  }
  return assemble([a, b], runs.list);
}

/** The index without some messages. */
export function withoutMessages(columns: Columns, gone: ReadonlySet<number>): Columns {
  const runs = new Runs();
  for (let i = 0; i < columns.count; i++) if (!gone.has(columns.id[i]!)) runs.add(0, i);
  return assemble([columns, columnsOf([])], runs.list);
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
