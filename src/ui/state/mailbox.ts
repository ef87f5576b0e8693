import {
  applyEdits,
  type Change,
  type MessageEdit,
  type MessageState,
  type ThingEdit,
  type World,
} from "@/core/change";
import {
  ColumnCursor,
  columnsOf,
  ColumnWriter,
  mergeColumns,
  RowIndex,
  stateAt,
  textAt,
  withoutMessages,
  type Columns,
  type OpenTasks,
  type ShownText,
} from "@/core/columns";
import { messageId, type MessageId } from "@/core/id";
import type { Facts } from "@/core/macro";
import { fold, TRAIT } from "@/core/narrow";
import { baseSubject } from "@/core/thread";
import { factsAt } from "./facts";

/** Different states kept by what they are; a mailbox has some dozens. */
const MOST_STATES = 5000;

/**
 * The view's copy of the mailbox: what the server said, with decisions that are on their way already made.
 * Rows are in order of date and id; their numbers hold until messages come or go (see `generation`).
 */
export class Mailbox implements World {
  columns: Columns = columnsOf([]);
  cursor = new ColumnCursor(this.columns);
  private writer = new ColumnWriter(this.columns);
  rows = new RowIndex(this.columns.id, 0);
  /** States by what they are made of, so that messages in the same state share one object. */
  private states = new Map<string, MessageState>();
  /** Rises when rows are numbered anew. */
  generation = 0;
  /** The largest id there is. */
  largestId = 0;
  /** Folders and labels there are, as far as that has been read. */
  places: { readonly folder?: ReadonlySet<number>; readonly label?: ReadonlySet<number> } = {};
  /** Messages that are being deleted for good: in no list any more. */
  readonly leaving = new Set<number>();

  /** Puts other columns in the place of these. @param rows where each message is in them, if that is known */
  use(columns: Columns, rows = new RowIndex(columns.id, columns.count)): void {
    this.columns = columns;
    this.cursor = new ColumnCursor(columns, this.cursor.openTasks);
    this.writer = new ColumnWriter(columns);
    this.rows = rows;
    this.states = new Map();
    this.largestId = columns.id.reduce((a, b) => Math.max(a, b), 0);
    this.generation++;
  }

  /** Puts other tasks in the place of those that were open. */
  useTasks(openTasks: OpenTasks): void {
    this.cursor = new ColumnCursor(this.columns, openTasks);
  }

  /** Adds messages, or puts newer rows in the place of those here. */
  merge(part: Columns): void {
    if (part.count > 0) this.use(this.columns.count === 0 ? part : mergeColumns(this.columns, part));
  }

  remove(ids: ReadonlySet<number>): void {
    if ([...ids].some((id) => this.rowOf(id) !== undefined)) this.use(withoutMessages(this.columns, ids));
  }

  rowOf(id: number): number | undefined {
    return this.rows.rowOf(id);
  }

  /** The rows of some messages, of those that are here. */
  *rowsOf(ids: Iterable<number>): Generator<number> {
    for (const id of ids) {
      const row = this.rowOf(id);
      if (row !== undefined) yield row;
    }
  }

  idAt(row: number): MessageId {
    return messageId(this.columns.id[row]!);
  }

  private stateIn(row: number): MessageState {
    const { columns: c } = this;
    const texts = `${c.texts.note.index[row]} ${c.texts.flagNote.index[row]}`;
    const key = `${c.folder[row]} ${c.bits[row]} ${c.marker[row]} ${c.labelSet[row]} ${c.startMs[row]} ${c.dueMs[row]} ${c.deferMs[row]} ${c.backMs[row]} ${c.awaitMs[row]} ${c.handMs[row]} ${texts}`;
    let state = this.states.get(key);
    if (!state) {
      if (this.states.size > MOST_STATES) this.states.clear();
      this.states.set(key, (state = stateAt(c, row)));
    }
    return state;
  }

  state(id: MessageId): MessageState | null {
    const row = this.rowOf(id);
    return row === undefined ? null : this.stateIn(row);
  }

  /** Whether folders and labels are there; other things are not known here, so they are as their writer saw them. */
  thing(edit: ThingEdit): true | null | undefined {
    const ids = edit.kind === "folder" || edit.kind === "label" ? this.places[edit.kind] : undefined;
    return ids && (ids.has(Number(edit.key)) ? true : null);
  }

  /** What the message says about itself; null when it is not here. */
  facts(id: MessageId): Facts | null {
    const row = this.rowOf(id);
    return row === undefined ? null : factsAt(this.columns, this.cursor, row);
  }

  /**
   * Some messages with what belongs to their threads: in the folders these are in, the person's own mail left
   * alone; or everywhere, whatever it is.
   */
  withThreads(ids: readonly number[], everywhere: boolean): number[] {
    const { thread, folder, traits, id, count } = this.columns;
    const places = new Map<number, Set<number>>();
    for (const row of this.rowsOf(ids)) {
      const folders = places.get(thread[row]!);
      if (folders) folders.add(folder[row]!);
      else places.set(thread[row]!, new Set([folder[row]!]));
    }
    const out = new Set(ids);
    // One thread is the usual case, and asked for whenever the focus rests: a plain comparison walks a million rows.
    const only = places.size === 1 ? places.keys().next().value : undefined;
    for (let row = 0; row < count; row++) {
      if (only !== undefined && thread[row] !== only) continue;
      const folders = places.get(thread[row]!);
      if (!folders) continue;
      if (everywhere || ((traits[row]! & TRAIT.mine) === 0 && folders.has(folder[row]!))) out.add(id[row]!);
    }
    return [...out];
  }

  /** The messages of the thread a message is in, oldest first. */
  threadOf(id: number): number[] {
    const { thread, count } = this.columns;
    const wanted = thread[this.rowOf(id) ?? -1];
    const out: number[] = [];
    for (let row = 0; row < count; row++) if (thread[row] === wanted) out.push(this.columns.id[row]!);
    return out;
  }

  /** Writes what the edits say comes after; messages that are not here are left out. */
  apply(change: Change): void {
    // Ten thousand messages are mostly a few states with the same edits: each pair is worked out once.
    const known = new Map<readonly MessageEdit[], Map<MessageState, MessageState>>();
    for (const [id, edits] of change.messages) {
      let after = known.get(edits);
      if (!after) known.set(edits, (after = new Map()));
      for (const edit of edits)
        if (edit.kind === "gone") {
          if (edit.after) this.leaving.add(id);
          else this.leaving.delete(id);
        }
      const row = this.rowOf(id);
      if (row === undefined) continue;
      const state = this.stateIn(row);
      let next = after.get(state);
      if (!next) after.set(state, (next = applyEdits(state, edits)));
      this.writer.write(row, next);
    }
  }

  /** The row as narrowings see it, until another is asked for. */
  at(row: number): ColumnCursor {
    this.cursor.row = row;
    return this.cursor;
  }

  /** What messages about the same have in common: the subject without "Re:" and its like, folded. */
  subjectKey(row: number): string {
    return fold(baseSubject(this.text(row, "subject")).base);
  }

  text(row: number, name: ShownText): string {
    return textAt(this.columns, name, row);
  }
}
