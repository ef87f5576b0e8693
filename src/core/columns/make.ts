import {
  NUMBER_COLUMNS,
  TEXT_COLUMNS,
  type ColumnRow,
  type Columns,
  type NumberColumn,
  type TextColumn,
} from "./format";
import { Table, TextTable } from "./tables";

const NUMBERS = Object.keys(NUMBER_COLUMNS) as NumberColumn[];

/** A text column in the making. */
class TextMaker {
  readonly table = new TextTable();
  readonly index: Uint32Array;
  constructor(most: number) {
    this.index = new Uint32Array(most);
  }

  /** @param bytes UTF-8, of which the text is a part */
  bytes = (row: number, bytes: Uint8Array, start: number, end: number): void => {
    this.index[row] = this.table.numberOf(bytes, start, end);
  };

  text = (row: number, text: string): void => {
    this.index[row] = this.table.number(text);
  };
}

const of = <K extends string, T>(names: readonly K[], make: (name: K) => T) =>
  Object.fromEntries(names.map((name) => [name, make(name)])) as Record<K, T>;

/** Makes columns: each field of each row is written once, in any order. */
export class ColumnsMaker {
  readonly numbers: { readonly [K in NumberColumn]: Columns[K] };
  readonly texts: Record<TextColumn, TextMaker>;
  private readonly sets = new Table<readonly number[]>();

  /** @param most how many rows there is room for */
  constructor(private readonly most: number) {
    // Each column is an array of the kind that the table says.
    this.numbers = of(NUMBERS, (name) => new NUMBER_COLUMNS[name](most)) as unknown as Columns;
    this.texts = of(TEXT_COLUMNS, () => new TextMaker(most));
  }

  labels = (row: number, set: readonly number[]): void => {
    this.numbers.labelSet[row] = this.sets.number(set.join(), set);
  };

  /** The columns of the rows from that one on. */
  from(first: number): Columns {
    const numbers = of(NUMBERS, (name) => this.numbers[name].subarray(first));
    const texts = of(TEXT_COLUMNS, (name) => {
      const { index, table } = this.texts[name];
      return { index: index.subarray(first), ...table.packed(), added: [] };
    });
    return { ...(numbers as unknown as Columns), count: this.most - first, texts, labelSets: this.sets.values };
  }
}

/** Columns of rows, in the order they have. */
export function columnsOf(rows: readonly ColumnRow[]): Columns {
  const maker = new ColumnsMaker(rows.length);
  const { numbers, texts } = maker;
  rows.forEach((one, row) => {
    for (const name of NUMBERS) if (name !== "labelSet") numbers[name][row] = one[name];
    for (const name of TEXT_COLUMNS) if (name !== "sender") texts[name].text(row, one[name]);
    texts.sender.text(row, `${one.fromName}\t${one.fromAddress}`);
    maker.labels(row, one.labels);
  });
  return maker.from(0);
}
