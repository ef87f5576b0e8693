import { NUMBER_COLUMNS, TEXT_COLUMNS, type Columns, type NumberColumn, type TextColumn, type Texts } from "./format";

/**
 * Two indexes as one, ordered by date and then id, as both must be. Where both hold a message the second's
 * row wins: it is newer.
 */
export function mergeColumns(a: Columns, b: Columns): Columns {
  const replaced = new Set<number>(b.id);
  const before = (i: number, j: number) =>
    a.dateMs[i]! < b.dateMs[j]! || (a.dateMs[i]! === b.dateMs[j]! && a.id[i]! < b.id[j]!);
  // Rows of b are written as -1 - row, so one array says both where from and which.
  const from = new Int32Array(a.count + b.count);
  let count = 0;
  for (let i = 0, j = 0; i < a.count || j < b.count;) {
    if (j >= b.count || (i < a.count && before(i, j))) {
      if (!replaced.has(a.id[i]!)) from[count++] = i;
      i++;
    } else from[count++] = -1 - j++;
  }
  const labelSets = [...a.labelSets, ...b.labelSets];
  const out: Record<string, unknown> = { count, labelSets };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[]) {
    const column = new NUMBER_COLUMNS[name](count);
    const shift = name === "labelSet" ? a.labelSets.length : 0;
    for (let k = 0; k < count; k++) {
      const row = from[k]!;
      column[k] = row >= 0 ? a[name][row]! : b[name][-1 - row]! + shift;
    }
    out[name] = column;
  }
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const [ta, tb] = [a.texts[name], b.texts[name]];
    const index = new Uint32Array(count);
    for (let k = 0; k < count; k++) {
      const row = from[k]!;
      index[k] = row >= 0 ? ta.index[row]! : tb.index[-1 - row]! + ta.table.length;
    }
    texts[name] = { index, table: [...ta.table, ...tb.table] };
  }
  return { ...out, texts } as Columns;
}

/** The index without some messages. */
export function withoutMessages(columns: Columns, gone: ReadonlySet<number>): Columns {
  const keep: number[] = [];
  for (let i = 0; i < columns.count; i++) if (!gone.has(columns.id[i]!)) keep.push(i);
  const out: Record<string, unknown> = { count: keep.length, labelSets: columns.labelSets };
  for (const name of Object.keys(NUMBER_COLUMNS) as NumberColumn[])
    out[name] = new NUMBER_COLUMNS[name](keep.map((row) => columns[name][row]!));
  const texts = {} as Record<TextColumn, Texts>;
  for (const name of TEXT_COLUMNS) {
    const { index, table } = columns.texts[name];
    texts[name] = { index: new Uint32Array(keep.map((row) => index[row]!)), table };
  }
  return { ...out, texts } as Columns;
}
