import type { MessageState } from "../change";
import { fold, type NarrowRow, type TextField } from "../narrow";
import { columnOf, foldedOf } from "./folded";
import { STATE_BIT, type Columns, type TextColumn, type Texts } from "./format";
import { rowOfState, stateOfRow } from "./state-row";
import { textOf } from "./tables";

/** What of a state is a number in a column of its own. */
const STATE_NUMBERS = [
  "folder",
  "bits",
  "marker",
  "startMs",
  "dueMs",
  "deferMs",
  "backMs",
  "awaitMs",
  "handMs",
] as const;

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
export const stateAt = (columns: Columns, row: number): MessageState =>
  stateOfRow({
    folder: columns.folder[row]!,
    bits: columns.bits[row]!,
    marker: columns.marker[row]!,
    labels: columns.labelSets[columns.labelSet[row]!]!,
    startMs: columns.startMs[row]!,
    dueMs: columns.dueMs[row]!,
    deferMs: columns.deferMs[row]!,
    backMs: columns.backMs[row]!,
    awaitMs: columns.awaitMs[row]!,
    handMs: columns.handMs[row]!,
    flagNote: textAt(columns, "flagNote", row),
    note: textAt(columns, "note", row),
  });

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

/** A state as the columns hold it: numbers in the order of STATE_NUMBERS, texts and labels by their places. */
interface Entry {
  readonly state: MessageState;
  readonly numbers: readonly number[];
  readonly note: number;
  readonly flagNote: number;
  readonly labelSet: number;
}

/** Writes states into columns in place. One is made for each set of columns, and keeps track of their tables. */
export class ColumnWriter {
  private readonly notes: Added;
  private readonly flagNotes: Added;
  private readonly sets = new Map<string, number>();
  private last: Entry | null = null;

  constructor(private readonly columns: Columns) {
    this.notes = new Added(columns.texts.note);
    this.flagNotes = new Added(columns.texts.flagNote);
    columns.labelSets.forEach((set, i) => this.sets.set(set.join(), i));
  }

  write(row: number, state: MessageState): void {
    const c = this.columns;
    const entry = this.entryOf(state);
    for (let i = 0; i < STATE_NUMBERS.length; i++) c[STATE_NUMBERS[i]!][row] = entry.numbers[i]!;
    c.texts.note.index[row] = entry.note;
    c.texts.flagNote.index[row] = entry.flagNote;
    c.labelSet[row] = entry.labelSet;
  }

  /** What is written for a state: a run on thousands writes few different ones, one after another. */
  private entryOf(state: MessageState): Entry {
    if (this.last?.state === state) return this.last;
    const values = rowOfState(state);
    const key = values.labels.join();
    let labelSet = this.sets.get(key);
    if (labelSet === undefined) {
      labelSet = this.columns.labelSets.push([...values.labels]) - 1;
      this.sets.set(key, labelSet);
    }
    const numbers = STATE_NUMBERS.map((name) => values[name]);
    const [note, flagNote] = [this.notes.number(values.note), this.flagNotes.number(values.flagNote)];
    return (this.last = { state, numbers, note, flagNote, labelSet });
  }
}

/** When the open tasks of messages are due, by the message; one that has none is missing. */
export type OpenTasks = ReadonlyMap<number, readonly number[]>;
const NO_TASKS: readonly number[] = [];

/** A row of columns as a narrowing sees it; moved from row to row instead of making an object for each. */
export class ColumnCursor implements NarrowRow {
  row = 0;

  /** @param openTasks null while that is not known */
  constructor(
    private readonly columns: Columns,
    readonly openTasks: OpenTasks | null = null,
  ) {}

  get folder() {
    return this.columns.folder[this.row]!;
  }
  get account() {
    return this.columns.account[this.row]!;
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
  get returned() {
    return !Number.isNaN(this.columns.backMs[this.row]!);
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

  tasks(): readonly number[] {
    return this.openTasks?.get(this.columns.id[this.row]!) ?? NO_TASKS;
  }
}
