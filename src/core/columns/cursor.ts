import type { MessageState } from "../change";
import { folderId, labelId, markerId } from "../id";
import { fold, type NarrowRow, type TextField } from "../narrow";
import { columnOf, foldedOf } from "./folded";
import { STATE_BIT, type Columns, type TextColumn, type Texts } from "./format";
import { textOf } from "./tables";

const isoOf = (ms: number): string | null => (Number.isNaN(ms) ? null : new Date(ms).toISOString());
const msOf = (iso: string | null): number => (iso === null ? NaN : Date.parse(iso));

/** Text columns, and the two halves of the sender. */
export type ShownText = TextColumn | "fromName" | "fromAddress";

export function textAt(columns: Columns, name: ShownText, row: number): string {
  if (name === "fromName" || name === "fromAddress") {
    const sender = textAt(columns, "sender", row);
    const tab = sender.indexOf("\t");
    return name === "fromName" ? sender.slice(0, tab) : sender.slice(tab + 1);
  }
  const texts = columns.texts[name];
  const n = texts.index[row]!;
  return n < texts.ends.length ? textOf(texts, n) : (texts.added[n - texts.ends.length] ?? "");
}

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

/** Numbers texts of a column: those written since it was packed are numbered on. */
class Added {
  private readonly seen = new Map<string, number>();
  constructor(private readonly texts: Texts) {
    texts.added.forEach((text, i) => this.seen.set(text, texts.ends.length + i));
  }
  number(text: string): number {
    let at = this.seen.get(text);
    if (at === undefined) {
      at = this.texts.ends.length + this.texts.added.push(text) - 1;
      this.seen.set(text, at);
    }
    return at;
  }
}

/** Writes states into columns in place. One is made for each set of columns, and keeps track of their tables. */
export class ColumnWriter {
  private readonly notes: Added;
  private readonly flagNotes: Added;
  private readonly sets = new Map<string, number>();

  constructor(private readonly columns: Columns) {
    this.notes = new Added(columns.texts.note);
    this.flagNotes = new Added(columns.texts.flagNote);
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
    c.texts.note.index[row] = this.notes.number(state.note ?? "");
    c.texts.flagNote.index[row] = this.flagNotes.number(state.flag?.note ?? "");
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
  get deferMs() {
    return this.columns.deferMs[this.row]!;
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
    if (field === "note") return fold(textAt(this.columns, "note", this.row));
    const name = columnOf(field);
    return textOf(foldedOf(this.columns, name), this.columns.texts[name].index[this.row]!);
  }

  /** The words of messages are on the server. */
  body(): string {
    return " ";
  }
}
