import type { MessageState } from "../change";
import { folderId, labelId, markerId } from "../id";
import { fold, type NarrowRow, type TextField } from "../narrow";
import { STATE_BIT, type Columns, type TextColumn } from "./format";

const isoOf = (ms: number): string | null => (Number.isNaN(ms) ? null : new Date(ms).toISOString());
const msOf = (iso: string | null): number => (iso === null ? NaN : Date.parse(iso));

export const textAt = (columns: Columns, name: TextColumn, row: number): string =>
  columns.texts[name].table[columns.texts[name].index[row]!] ?? "";

/** The state of the message in that row, as changes see it. */
export function stateAt(columns: Columns, row: number): MessageState {
  const bits = columns.bits[row]!;
  const note = textAt(columns, "note", row);
  const marker = columns.marker[row]!;
  return {
    folder: folderId(columns.folder[row]!),
    read: (bits & STATE_BIT.read) !== 0,
    flag:
      bits & STATE_BIT.flagged
        ? {
            start: isoOf(columns.startMs[row]!),
            due: isoOf(columns.dueMs[row]!),
            note: textAt(columns, "flagNote", row) || null,
          }
        : null,
    pin: (bits & STATE_BIT.pin) !== 0,
    marker: marker === 0 ? null : markerId(marker),
    labels: columns.labelSets[columns.labelSet[row]!]!.map(labelId),
    note: note === "" ? null : note,
    defer: isoOf(columns.deferMs[row]!),
    await: isoOf(columns.awaitMs[row]!),
    owed: (bits & STATE_BIT.owed) !== 0,
  };
}

function numberOf(list: string[], text: string, seen: Map<string, number>): number {
  let at = seen.get(text);
  if (at === undefined) {
    at = list.push(text) - 1;
    seen.set(text, at);
  }
  return at;
}

/** Writes states into columns in place. One is made for each set of columns, and keeps track of their tables. */
export class ColumnWriter {
  private readonly notes = new Map<string, number>();
  private readonly flagNotes = new Map<string, number>();
  private readonly sets = new Map<string, number>();

  constructor(private readonly columns: Columns) {
    columns.labelSets.forEach((set, i) => this.sets.set(set.join(), i));
  }

  write(row: number, state: MessageState): void {
    const c = this.columns;
    c.folder[row] = state.folder;
    c.bits[row] =
      (state.read ? STATE_BIT.read : 0) |
      (state.pin ? STATE_BIT.pin : 0) |
      (state.owed ? STATE_BIT.owed : 0) |
      (state.flag ? STATE_BIT.flagged : 0);
    c.marker[row] = state.marker ?? 0;
    c.startMs[row] = msOf(state.flag?.start ?? null);
    c.dueMs[row] = msOf(state.flag?.due ?? null);
    c.deferMs[row] = msOf(state.defer);
    c.awaitMs[row] = msOf(state.await);
    c.texts.note.index[row] = numberOf(c.texts.note.table, state.note ?? "", this.notes);
    c.texts.flagNote.index[row] = numberOf(c.texts.flagNote.table, state.flag?.note ?? "", this.flagNotes);
    const key = state.labels.join();
    let set = this.sets.get(key);
    if (set === undefined) {
      set = c.labelSets.push([...state.labels]) - 1;
      this.sets.set(key, set);
    }
    c.labelSet[row] = set;
  }
}

/** A row of columns as a narrowing sees it; moved from row to row instead of making an object for each. */
export class ColumnCursor implements NarrowRow {
  row = 0;
  private readonly folded: Partial<Record<TextColumn, string[]>> = {};
  private readonly from = new Map<number, string>();
  /** By row: the strings themselves are shared. */
  private readonly senders: string[] = [];

  constructor(private readonly columns: Columns) {}

  get folder() {
    return this.columns.folder[this.row]!;
  }
  get read() {
    return (this.columns.bits[this.row]! & STATE_BIT.read) !== 0;
  }
  get pin() {
    return (this.columns.bits[this.row]! & STATE_BIT.pin) !== 0;
  }
  get flagged() {
    return (this.columns.bits[this.row]! & STATE_BIT.flagged) !== 0;
  }
  get owed() {
    return (this.columns.bits[this.row]! & STATE_BIT.owed) !== 0;
  }
  get awaited() {
    return !Number.isNaN(this.columns.awaitMs[this.row]!);
  }
  get deferred() {
    return !Number.isNaN(this.columns.deferMs[this.row]!);
  }
  get dueMs() {
    return this.columns.dueMs[this.row]!;
  }
  get marker() {
    return this.columns.marker[this.row]!;
  }
  get dateMs() {
    return this.columns.dateMs[this.row]!;
  }
  get size() {
    return this.columns.size[this.row]!;
  }
  get traits() {
    return this.columns.traits[this.row]!;
  }

  hasLabel(label: number): boolean {
    return this.columns.labelSets[this.columns.labelSet[this.row]!]!.includes(label);
  }

  text(field: TextField): string {
    return field === "from" ? this.sender() : this.foldedText(field);
  }

  /** Texts are folded when first looked at, once for each different one. */
  private foldedText(name: Exclude<TextField, "from">): string {
    const { index, table } = this.columns.texts[name];
    const folded = (this.folded[name] ??= []);
    const at = index[this.row]!;
    return (folded[at] ??= fold(table[at] ?? ""));
  }

  private sender(): string {
    return (this.senders[this.row] ??= this.foldedSender());
  }

  private foldedSender(): string {
    const { fromName, fromAddress } = this.columns.texts;
    const key = fromName.index[this.row]! * 2 ** 26 + fromAddress.index[this.row]!;
    let text = this.from.get(key);
    if (text === undefined) {
      text = fold(`${textAt(this.columns, "fromName", this.row)} ${textAt(this.columns, "fromAddress", this.row)}`);
      this.from.set(key, text);
    }
    return text;
  }
}
