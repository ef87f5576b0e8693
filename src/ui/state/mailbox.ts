import { applyEdits, type CellEdit, type Change, type MessageState } from "@/core/change";
import {
  ColumnCursor,
  ColumnWriter,
  decodeColumns,
  encodeColumns,
  mergeColumns,
  stateAt,
  textAt,
  withoutMessages,
  type Columns,
} from "@/core/columns";
import { messageId, type MessageId } from "@/core/id";
import type { Facts } from "@/core/macro";
import { factsAt } from "./facts";

export interface PlaceCount {
  total: number;
  unread: number;
  /** How many are older than a week. */
  old: number;
}

export const WEEK_MS = 7 * 86_400_000;

const nothing = (): Columns => decodeColumns(encodeColumns([]).buffer as ArrayBuffer);

/**
 * The view's copy of the mailbox: what the server said, with decisions that are on their way already made.
 * Rows are in order of date and id; their numbers hold until messages come or go (see `generation`).
 */
export class Mailbox {
  columns: Columns = nothing();
  cursor = new ColumnCursor(this.columns);
  private writer = new ColumnWriter(this.columns);
  private rows = new Map<number, number>();
  /** Rises when rows are numbered anew. */
  generation = 0;
  /** Messages that are being deleted for good: in no list any more. */
  readonly leaving = new Set<number>();

  private use(columns: Columns): void {
    this.columns = columns;
    this.cursor = new ColumnCursor(columns);
    this.writer = new ColumnWriter(columns);
    this.rows = new Map();
    for (let row = 0; row < columns.count; row++) this.rows.set(columns.id[row]!, row);
    this.generation++;
  }

  /** Adds messages, or puts newer rows in the place of those here. */
  merge(part: Columns): void {
    if (part.count > 0) this.use(this.columns.count === 0 ? part : mergeColumns(this.columns, part));
  }

  remove(ids: ReadonlySet<number>): void {
    if ([...ids].some((id) => this.rows.has(id))) this.use(withoutMessages(this.columns, ids));
  }

  rowOf(id: number): number | undefined {
    return this.rows.get(id);
  }

  idAt(row: number): MessageId {
    return messageId(this.columns.id[row]!);
  }

  state(id: MessageId): MessageState | null {
    const row = this.rows.get(id);
    return row === undefined ? null : stateAt(this.columns, row);
  }

  /** What the message says about itself; null when it is not here. */
  facts(id: MessageId): Facts | null {
    const row = this.rows.get(id);
    return row === undefined ? null : factsAt(this.columns, this.cursor, row);
  }

  /** The rest of the threads of some messages, with these. */
  withThreads(ids: readonly number[]): number[] {
    const { thread, id, count } = this.columns;
    const wanted = new Set(ids.map((one) => thread[this.rows.get(one) ?? -1]));
    const out = new Set(ids);
    for (let row = 0; row < count; row++) if (wanted.has(thread[row]!)) out.add(id[row]!);
    return [...out];
  }

  /** Writes what the edits say comes after; messages that are not here are left out. */
  apply(change: Change): void {
    for (const [id, edits] of change) {
      for (const edit of edits)
        if (edit.kind === "gone") {
          if (edit.after) this.leaving.add(id);
          else this.leaving.delete(id);
        }
      this.applyTo(id, edits);
    }
  }

  private applyTo(id: MessageId, edits: readonly CellEdit[]): void {
    const row = this.rows.get(id);
    if (row !== undefined) this.writer.write(row, applyEdits(stateAt(this.columns, row), edits));
  }

  text(row: number, name: "fromName" | "fromAddress" | "subject" | "preview" | "note"): string {
    return textAt(this.columns, name, row);
  }

  /**
   * Counts by folder, in one walk over a few columns. What is deferred is not counted in the inbox, but for
   * itself under 0.
   */
  counts(nowMs: number, inbox: number): Map<number, PlaceCount> {
    const out = new Map<number, PlaceCount>();
    const { folder, bits, dateMs, deferMs, count } = this.columns;
    for (let row = 0; row < count; row++) {
      const at = folder[row] === inbox && !Number.isNaN(deferMs[row]!) ? 0 : folder[row]!;
      let place = out.get(at);
      if (!place) out.set(at, (place = { total: 0, unread: 0, old: 0 }));
      place.total++;
      if ((bits[row]! & 1) === 0) place.unread++;
      if (nowMs - dateMs[row]! > WEEK_MS) place.old++;
    }
    return out;
  }
}
